// SPDX-License-Identifier: Apache-2.0
// Whatever a row of a world file holds, its checksum right: chunks whose every voxel is of a block type that the world
// has, or a row that is named as damaged, never a crash.
#include "demo/demo_folder.h"
#include "input/text_file.h"
#include "keep/world_file.h"

#include <SQLiteCpp/SQLiteCpp.h>
#include <xxhash.h>

#include <cstdlib>
#include <unistd.h>

namespace {

std::filesystem::path worldFile()
{
    static const std::filesystem::path kFile = [] {
        const auto file
            = std::filesystem::temp_directory_path() / ("fell-fuzz-" + std::to_string(::getpid()) + ".fell");
        const auto demo = fell::demoFolder() / "level";
        std::filesystem::remove(file);
        if (!fell::WorldFile::create(file,
                {"Level", fell::readFile(demo / "recipe.json").take(), fell::readFile(demo / "blocks.json").take(),
                    demo.string(), 1, "changed", "cube"}))
            std::abort();
        std::atexit([] { std::filesystem::remove(worldFile()); });
        return file;
    }();
    return kFile;
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    const std::string content = fell::squeezed({reinterpret_cast<const char*>(data), size}, 1);
    {
        SQLite::Database base(worldFile().string(), SQLite::OPEN_READWRITE);
        base.exec("PRAGMA synchronous = OFF");
        SQLite::Statement put(base, "INSERT OR REPLACE INTO kept VALUES(0, 0, 0, 1, 1, ?, ?)");
        put.bind(1, static_cast<std::int64_t>(XXH3_64bits(content.data(), content.size())));
        put.bindNoCopy(2, content.data(), static_cast<int>(content.size()));
        put.exec();
    }
    const auto world = fell::WorldFile::open(worldFile(), fell::WorldAccess::Read);
    if (!world)
        std::abort(); // its header is sound
    auto contents = world.value()->load();
    if (!contents)
        std::abort();
    fell::WorldContents all = contents.take();
    if (all.chunks.empty() == all.damaged.empty() && size > 0)
        std::abort(); // a row is one or the other
    for (const auto& [chunk, voxels] : fell::changesFrom(std::move(all.chunks)))
        for (const fell::KeptVoxel& one : voxels)
            if (one.material > 1 || one.voxel >= fell::kKeptEdge * fell::kKeptEdge * fell::kKeptEdge)
                std::abort(); // the level world has one block type
    return 0;
}

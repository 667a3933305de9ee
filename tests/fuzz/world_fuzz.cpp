// SPDX-License-Identifier: Apache-2.0
// Whatever a row of a world file holds, its checksum right: chunks whose every voxel is of a block type that the world
// has, or a row that is named as damaged, never a crash.
#include "support/all_names.h"
#include <fell/demo/demo_folder.h>
#include <fell/input/text_file.h>
#include <fell/save/world_file.h>

#include <SQLiteCpp/SQLiteCpp.h>
#include <xxhash.h>

#include <cstdlib>
#include <unistd.h>

namespace {

/// A world with nothing in it, gone with the process.
class World {
public:
    World()
    {
        const auto demo = fell::demoFolder() / "level";
        std::filesystem::remove(m_file);
        if (!fell::WorldFile::create(m_file,
                {"Level", fell::readFile(demo / "recipe.json").take(), fell::readFile(demo / "blocks.json").take(),
                    demo.string(), 1, "changed", "cube"}))
            std::abort();
    }
    World(const World&) = delete;
    World& operator=(const World&) = delete;
    ~World()
    {
        std::error_code error;
        std::filesystem::remove(m_file, error);
    }
    [[nodiscard]] const std::filesystem::path& file() const { return m_file; }

private:
    std::filesystem::path m_file
        = std::filesystem::temp_directory_path() / ("fell-fuzz-" + std::to_string(::getpid()) + ".fell");
};

const std::filesystem::path& worldFile()
{
    static const World kWorld;
    return kWorld.file();
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    const std::string content = fell::compressed({reinterpret_cast<const char*>(data), size}, 1);
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

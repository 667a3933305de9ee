// SPDX-License-Identifier: Apache-2.0
#include <fell/plugin/loaded_mesher.h>

#include <fell/input/text_file.h>
#include <fell/plugin/surface_sink.h>

#include <algorithm>
#include <cstring>
#include <deque>
#include <dlfcn.h>
#include <fstream>
#include <map>
#include <mutex>
#include <stdexcept>
#include <unistd.h>

namespace fell::plugin {
namespace {

static_assert(FELL_SOLID == static_cast<int>(Matter::Solid) && FELL_TRANSPARENT == static_cast<int>(Matter::SeeThrough)
    && FELL_LIQUID == static_cast<int>(Matter::Liquid) && FELL_NORTH == static_cast<int>(Side::North));

/// With a state for each thread that is inside it, kept for the next.
class PooledMesher final : public LibraryMesher {
public:
    PooledMesher(const FellMethod& method, std::string name)
        : m_method(method)
        , m_name(std::move(name))
    {
    }

    /// At the end of the process, when no thread meshes any more.
    ~PooledMesher() override
    {
        while (void* state = m_states.take())
            m_method.destroy(state);
    }
    PooledMesher(const PooledMesher&) = delete;
    PooledMesher& operator=(const PooledMesher&) = delete;

    void meshAt(const Material* voxels, int edge, int apron, const MeshRules& rules, ChunkSurface& out) const override
    {
        const SideRules& sides = *rules.sides;
        const std::ptrdiff_t row = edge + 2 * apron, layer = row * row; // see PaddedVoxels
        const FellVoxels in{edge, apron, voxels + apron * (layer + row + 1), {1, layer, row}};
        const FellMaterials materials{
            static_cast<std::uint32_t>(sides.flags.size()), sides.solidCubes, sides.flags.data()};
        const FellMeshRules asked{rules.ambientOcclusion ? 1U : 0U};
        SurfaceSink sink(edge, sides, out);
        void* state = take();
        const int code = m_method.mesh(state, &in, &materials, &asked, &sink);
        m_states.give(state);
        if (!sink.refused().empty())
            throw std::runtime_error(m_name + " " + sink.refused());
        if (code != 0)
            throw std::runtime_error(m_name + " reports failure " + std::to_string(code));
    }

    void makeState() const override
    {
        if (m_method.create)
            m_method.destroy(m_method.create());
    }

private:
    /// States that no thread is using.
    class Pool {
    public:
        void* take()
        {
            const std::scoped_lock lock(m_mutex);
            if (m_free.empty())
                return nullptr;
            void* state = m_free.back();
            m_free.pop_back();
            return state;
        }
        void give(void* state)
        {
            if (!state)
                return;
            const std::scoped_lock lock(m_mutex);
            m_free.push_back(state);
        }

    private:
        std::mutex m_mutex;
        std::vector<void*> m_free;
    };

    void* take() const
    {
        if (!m_method.create)
            return nullptr;
        if (void* state = m_states.take())
            return state;
        void* made = m_method.create();
        if (!made)
            throw std::runtime_error(m_name + " makes no state: its create returns null");
        return made;
    }

    const FellMethod& m_method;
    std::string m_name;
    mutable Pool m_states;
};

Problem problemOf(const std::filesystem::path& file, std::string what)
{
    return {file.string(), "", std::move(what)};
}

/// What is wrong with what the library says of itself; empty: nothing.
std::string refusalOf(const FellMethod& method)
{
    if (method.version == 0 || method.version > FELL_METHOD_VERSION)
        return "is built for version " + std::to_string(method.version) + " of fell/method.h, 1 to "
            + std::to_string(FELL_METHOD_VERSION) + " are known";
    if (method.kind != FELL_MESHER)
        return "is a method of kind " + std::to_string(method.kind) + ", only meshers (1) are known";
    if (!method.name || !method.title || !method.note || !method.mesh)
        return "lacks a name, a title, a note or the function mesh";
    constexpr std::size_t kMaxName = 24, kMaxTitle = 40, kMaxNote = 200;
    const std::string_view name(method.name, strnlen(method.name, kMaxName + 1));
    const bool isPlain = std::all_of(
        name.begin(), name.end(), [](char c) { return (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '-'; });
    if (name.empty() || name.size() > kMaxName || !isPlain)
        return "has the name \"" + std::string(name) + "\": 1 to 24 lower-case letters, digits and hyphens are allowed";
    if (strnlen(method.title, kMaxTitle + 1) > kMaxTitle || strnlen(method.note, kMaxNote + 1) > kMaxNote)
        return "has a title of more than 40 bytes or a note of more than 200";
    if (!isUtf8(method.title) || !isUtf8(method.note))
        return "has a title or a note that is not UTF-8";
    if (method.apron < kMinApron || method.apron > kMaxApron)
        return "asks for an apron of " + std::to_string(method.apron) + ", 1 to 8 are allowed";
    if ((method.create == nullptr) != (method.destroy == nullptr))
        return "has only one of create and destroy";
    return {};
}

MesherTraits traitsOf(const FellMethod& method)
{
    const auto has = [&method](unsigned flag) { return (method.traits & flag) != 0; };
    return {.makesTriangles = has(FELL_EMITS_TRIANGLES),
        .mergesFaces = has(FELL_MERGES_FACES),
        .drawsHidden = has(FELL_EMITS_HIDDEN_FACES),
        .apron = method.apron,
        .takesOcclusion = !has(FELL_IGNORES_OCCLUSION),
        .takesSeams = !has(FELL_NO_SEAMS),
        .keepsCubes = !has(FELL_CUTS_CUBES)};
}

constexpr std::size_t kMaxLibrary = std::size_t{1} << 30U;

std::string hashOfBytes(const std::string& bytes)
{
    std::uint64_t hash = 0xCBF29CE484222325ULL;
    for (const char byte : bytes)
        hash = (hash ^ static_cast<unsigned char>(byte)) * 0x100000001B3ULL;
    char text[9];
    std::snprintf(text, sizeof text, "%08x", static_cast<unsigned>(hash >> 32 ^ hash));
    return text;
}

/// From a copy that is gone when this returns: the loader needs it no longer, and nothing else can write to it.
Outcome<Library> openBytes(const std::string& bytes, const std::filesystem::path& file)
{
    std::error_code error;
    std::string copy = (std::filesystem::temp_directory_path(error) / "fell-method-XXXXXX").string();
    const int made = error ? -1 : mkstemp(copy.data()); // a new name each time: the loader knows a library by its name
    if (made < 0)
        return Library::open(file);
    close(made);
    std::ofstream out(copy, std::ios::binary);
    const bool isWritten = !out.write(bytes.data(), static_cast<std::streamsize>(bytes.size())).flush().fail();
    auto library = isWritten ? Library::openCopy(copy, file) : Library::open(file);
    std::filesystem::remove(copy, error);
    // A library next to it is not next to the copy, or the folder forbids programs.
    return library || !isWritten ? std::move(library) : Library::open(file);
}

/// What a mesher of the table points to.
struct Entry {
    std::string id, title, note;
};

} // namespace

Outcome<Library> Library::open(const std::filesystem::path& file)
{
    return openCopy(file, file);
}

Outcome<Library> Library::openCopy(const std::filesystem::path& copy, const std::filesystem::path& named)
{
    std::error_code error;
    if (!std::filesystem::is_regular_file(copy, error))
        return problemOf(named, "is no file: a shared library is expected");
    void* handle = dlopen(std::filesystem::absolute(copy, error).c_str(), RTLD_NOW | RTLD_LOCAL);
    if (!handle)
        return problemOf(named, std::string("is no shared library that can be loaded: ") + dlerror());
    using Entrance = const FellMethod* (*)();
    const auto entrance = reinterpret_cast<Entrance>(dlsym(handle, "fell_method"));
    if (!entrance)
        return problemOf(named, "exports no function fell_method: see include/fell/method.h");
    const FellMethod* method = entrance();
    if (!method)
        return problemOf(named, "gives no method: its fell_method returns null");
    return adopt(*method, named);
}

Outcome<Library> Library::adopt(const FellMethod& method, const std::filesystem::path& name)
{
    if (const std::string wrong = refusalOf(method); !wrong.empty())
        return problemOf(name, wrong);
    Library out;
    out.m_info = {method.name, method.title, method.note, traitsOf(method)};
    static std::mutex mutex;
    static std::deque<PooledMesher> all; // as long as the process: tables and threads point to them
    const std::scoped_lock lock(mutex);
    out.m_mesher = &all.emplace_back(method, out.m_info.name);
    return out;
}

Outcome<std::string> hashOf(const std::filesystem::path& file)
{
    const auto bytes = readFile(file, kMaxLibrary);
    return bytes ? Outcome<std::string>(hashOfBytes(bytes.value())) : bytes.problem();
}

Outcome<const Mesher*> loadMesher(const std::filesystem::path& file, const std::string& checked)
{
    static std::mutex mutex;
    static std::deque<Entry> entries; // the table of meshers points to them
    static std::map<std::string, const Mesher*> added; // by hash
    const auto bytes = readFile(file, kMaxLibrary);
    if (!bytes)
        return problemOf(file, "cannot be read: a shared library is expected");
    const std::string hash = hashOfBytes(bytes.value());
    if (!checked.empty() && hash != checked)
        return problemOf(file, "was written again while it was checked: load it once more");
    const std::scoped_lock lock(mutex);
    if (const auto found = added.find(hash); found != added.end())
        return found->second;
    auto library = openBytes(bytes.value(), file);
    if (!library)
        return library.problem();
    const MethodInfo& info = library.value().info();
    for (const Mesher& mesher : meshers())
        if (info.name == mesher.id)
            return problemOf(file, "has the name of Fell's own mesher " + info.name + ": give it another");
    const Entry& entry = entries.emplace_back(Entry{info.name + "@" + hash, info.title, info.note});
    const Mesher* mesher = addMesher(
        {entry.id.c_str(), entry.title.c_str(), entry.note.c_str(), MeshCall(library.value().mesher()), info.traits});
    if (!mesher)
        return problemOf(file, std::to_string(kMaxOutsideMeshers) + " builds are loaded, no more are allowed");
    added[hash] = mesher;
    return mesher;
}

} // namespace fell::plugin

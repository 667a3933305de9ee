// SPDX-License-Identifier: Apache-2.0
#include <fell/plugin/loaded_mesher.h>

#include <fell/plugin/surface_sink.h>

#include <algorithm>
#include <cstring>
#include <deque>
#include <dlfcn.h>
#include <fstream>
#include <map>
#include <mutex>
#include <stdexcept>

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

/// What a mesher of the table points to.
struct Entry {
    std::string id, title, note;
};

} // namespace

Outcome<Library> Library::open(const std::filesystem::path& file)
{
    std::error_code error;
    if (!std::filesystem::is_regular_file(file, error))
        return problemOf(file, "is no file: a shared library is expected");
    void* handle = dlopen(std::filesystem::absolute(file, error).c_str(), RTLD_NOW | RTLD_LOCAL);
    if (!handle)
        return problemOf(file, std::string("is no shared library that can be loaded: ") + dlerror());
    using Entrance = const FellMethod* (*)();
    const auto entrance = reinterpret_cast<Entrance>(dlsym(handle, "fell_method"));
    if (!entrance)
        return problemOf(file, "exports no function fell_method: see include/fell/method.h");
    const FellMethod* method = entrance();
    if (!method)
        return problemOf(file, "gives no method: its fell_method returns null");
    return adopt(*method, file);
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
    std::ifstream in(file, std::ios::binary);
    std::uint64_t hash = 0xCBF29CE484222325ULL;
    std::array<char, 65536> part{};
    while (in.read(part.data(), part.size()) || in.gcount() > 0)
        for (std::streamsize i = 0; i < in.gcount(); ++i)
            hash = (hash ^ static_cast<unsigned char>(part[static_cast<std::size_t>(i)])) * 0x100000001B3ULL;
    if (!in.eof())
        return problemOf(file, "cannot be read: a shared library is expected");
    char text[9];
    std::snprintf(text, sizeof text, "%08x", static_cast<unsigned>(hash >> 32 ^ hash));
    return std::string(text);
}

Outcome<const Mesher*> loadMesher(const std::filesystem::path& file)
{
    const auto hash = hashOf(file);
    if (!hash)
        return hash.problem();
    auto library = Library::open(file);
    if (!library)
        return library.problem();
    const MethodInfo& info = library.value().info();
    static std::deque<Entry> entries; // addMesher's table points to them
    static std::map<std::string, const Mesher*> added;
    const std::string id = info.name + "@" + hash.value();
    if (const auto found = added.find(id); found != added.end())
        return found->second;
    for (const Mesher& mesher : meshers())
        if (info.name == mesher.id)
            return problemOf(file, "has the name of Fell's own mesher " + info.name + ": give it another");
    const Entry& entry = entries.emplace_back(Entry{id, info.title, info.note});
    const Mesher* mesher = addMesher(
        {entry.id.c_str(), entry.title.c_str(), entry.note.c_str(), MeshCall(library.value().mesher()), info.traits});
    if (!mesher)
        return problemOf(file, std::to_string(kMaxOutsideMeshers) + " methods are loaded, no more are allowed");
    added[id] = mesher;
    return mesher;
}

} // namespace fell::plugin

// SPDX-License-Identifier: Apache-2.0
#include <fell/audit/method_check.h>

#include <fell/audit/child.h>
#include <fell/audit/shrink.h>

#include <cstring>
#include <malloc.h>

namespace fell::audit {
namespace {

constexpr int kBorderCases = 6;
constexpr std::array<int, 4> kRandomCases{28, 28, 6, 2}; // by edge 16 with seed 1 and 2, 32, 64
constexpr int kLeakRuns = 256;

PaddedVoxels emptyChunk(int edge, int apron)
{
    PaddedVoxels out{edge, apron, {}};
    const auto stride = static_cast<std::size_t>(out.stride());
    out.voxels.assign(stride * stride * stride, kOpen);
    return out;
}

/// 0: full, with air beyond; 1: empty, with solid beyond; 2: the chunk's own outermost voxels; 3: its corners, and
/// those of the apron; 4: each second voxel on the borders and beyond; 5: as 4, of all materials.
PaddedVoxels borderChunk(int number, int apron, std::size_t kinds)
{
    PaddedVoxels out = emptyChunk(16, apron);
    const int last = out.edge - 1;
    std::size_t next = 0;
    for (int y = -apron; y <= last + apron; ++y)
        for (int z = -apron; z <= last + apron; ++z)
            for (int x = -apron; x <= last + apron; ++x) {
                const bool isInside = std::min({x, y, z}) >= 0 && std::max({x, y, z}) <= last;
                const auto atEnd = [last](int at) { return at <= 0 || at >= last; };
                const int ends = static_cast<int>(atEnd(x)) + static_cast<int>(atEnd(y)) + static_cast<int>(atEnd(z));
                const bool solid = number == 0 ? isInside
                    : number == 1              ? !isInside
                    : number == 2              ? isInside && ends > 0
                    : number == 3              ? ends == 3
                                               : ends > 0 && (x + y + z) % 2 == 0;
                const std::size_t material = number == 5 ? 1 + next++ % (kinds - 1) : 1;
                if (solid)
                    out.voxels[out.index(x, y, z)] = static_cast<Material>(material);
            }
    return out;
}

std::vector<PaddedVoxels> casesOf(const SideRules& rules, int apron)
{
    std::vector<PaddedVoxels> out;
    for (int i = 0; i < kBorderCases; ++i)
        out.push_back(borderChunk(i, apron, rules.matter.size()));
    constexpr std::array<int, 4> kEdges{16, 16, 32, 64};
    for (std::size_t group = 0; group < kEdges.size(); ++group)
        for (int i = 0; i < kRandomCases[group]; ++i) // numbers 10 to 13 are slopes and hills
            out.push_back(randomNeighbourhood(kEdges[group],
                static_cast<std::uint64_t>(kEdges[group] == 64 ? 12 + i
                        : kEdges[group] == 32                  ? i * 2
                                                               : i),
                group + 1, rules, apron));
    return out;
}

/// Meshes voxels that lie next to a guard. Says what is wrong: nothing where nothing is.
std::string meshGuarded(const LibraryMesher& mesher, const MesherTraits& traits, const PaddedVoxels& voxels,
    const SideRules& rules, bool isAtEnd)
{
    const GuardedInput input(voxels.voxels.data(), voxels.voxels.size() * sizeof(Material), isAtEnd);
    const std::vector<std::uint32_t> flags = rules.flags;
    ChunkSurface first, second;
    for (ChunkSurface* out : {&first, &second}) {
        mesher.meshAt(static_cast<const Material*>(input.data()), voxels.edge, voxels.apron,
            {&rules, traits.takesOcclusion, traits.takesOcclusion}, *out);
        if (flags != rules.flags)
            return "writes to the materials, which it may only read";
    }
    if (first.all() != second.all() || first.triangles.indices != second.triangles.indices)
        return "gives two surfaces for the same voxels";
    return {};
}

/// All that one case is asked, in the child.
void runCase(const Library& library, const PaddedVoxels& voxels, const BlockSet& blocks, const SideRules& rules,
    ChildReport& report)
{
    const MethodInfo& info = library.info();
    for (const bool isAtEnd : {true, false}) {
        ++report.beat;
        if (const std::string wrong = meshGuarded(library.mesher(), info.traits, voxels, rules, isAtEnd);
            !wrong.empty())
            return report.say(wrong);
    }
    report.isUnlimited = true; // the slow way, and the mesher on what it has just meshed
    const Mesher mesher{
        info.name.c_str(), info.title.c_str(), info.note.c_str(), MeshCall(library.mesher()), info.traits};
    MeshAuditSpec spec;
    spec.blocks = blocks;
    spec.cases = 0;
    spec.meshers = {&mesher};
    spec.chunks = {voxels};
    if (const AuditRow row = auditMesh(spec); row.differences > 0)
        report.say("\n" + row.first.substr(row.first.find(": ") + 2)); // a wrong surface
    report.isUnlimited = false;
}

FaultKind kindOf(const ChildResult& result)
{
    if (result.report.isOutOfMemory)
        return FaultKind::OutOfMemory;
    if (result.report.isInGuard)
        return FaultKind::OutOfBounds;
    return result.end == ChildEnd::Hung   ? FaultKind::Hang
        : result.end == ChildEnd::Crashed ? FaultKind::Crash
        : result.report.text[0] == '\n'   ? FaultKind::WrongSurface
                                          : FaultKind::Refused;
}

bool isFault(const ChildResult& result)
{
    return result.end != ChildEnd::Done || result.report.text[0] != 0;
}

std::string whatOf(FaultKind kind, const ChildResult& result, const MethodCheckSpec& spec, const std::string& name)
{
    std::string text = result.report.text.data();
    switch (kind) {
    case FaultKind::Crash:
        return result.signal == 0 ? "ends its process" : std::string("crashes (") + strsignal(result.signal) + ")";
    case FaultKind::Hang: {
        char limit[40];
        std::snprintf(limit, sizeof limit, "does not end within %g s", spec.seconds);
        return limit;
    }
    case FaultKind::OutOfMemory:
        return "needs more than " + std::to_string(spec.bytes >> 20U) + " MiB of memory";
    case FaultKind::OutOfBounds:
        return result.report.isWrite ? "writes to the voxels or beyond them, which it may only read"
                                     : "reads beyond the voxels";
    case FaultKind::WrongSurface:
        return "emits a wrong surface: " + text.substr(1);
    default:
        return text.rfind(name + " ", 0) == 0 ? text.substr(name.size() + 1) : text;
    }
}

/// Does the memory in use grow from chunk to chunk, or from state to state?
std::string leakOf(const Library& library, const PaddedVoxels& voxels, const SideRules& rules, ChildReport& report)
{
    ChunkSurface out;
    const auto inUse = [] {
        const struct mallinfo2 now = mallinfo2();
        return now.uordblks + now.hblkhd;
    };
    const auto grows = [&](const std::function<void()>& once) {
        std::size_t before = 0;
        for (int i = 0; i < 2 * kLeakRuns; ++i) {
            if (i == kLeakRuns) // by now all is there that is kept for later
                before = inUse();
            once();
            ++report.beat;
        }
        const std::size_t after = inUse();
        return after > before ? (after - before) / kLeakRuns : 0;
    };
    if (const std::size_t bytes = grows([&] {
            out.clear();
            library.mesher().mesh(voxels, {&rules, false, false}, out);
        });
        bytes >= 4)
        return "leaks about " + std::to_string(bytes) + " bytes with each chunk";
    if (const std::size_t bytes = grows([&] { library.mesher().makeState(); }); bytes >= 4)
        return "leaks about " + std::to_string(bytes) + " bytes with each state";
    return {};
}

/// What the library says of itself, asked in a child: its code runs as it is loaded.
Outcome<MethodInfo> infoOf(const MethodCheckSpec& spec)
{
    constexpr char kSeparator = '\x1f';
    const ChildResult asked = runInChild(
        [&spec](ChildReport& report) {
            const auto library = Library::open(spec.file);
            if (!library)
                return report.say("!" + library.problem().what);
            const MethodInfo& info = library.value().info();
            const MesherTraits& t = info.traits;
            const unsigned bits = static_cast<unsigned>(t.makesTriangles) | static_cast<unsigned>(t.mergesFaces) << 1U
                | static_cast<unsigned>(t.drawsHidden) << 2U | static_cast<unsigned>(t.takesOcclusion) << 3U
                | static_cast<unsigned>(t.takesSeams) << 4U | static_cast<unsigned>(t.keepsCubes) << 5U;
            report.say(info.name + kSeparator + info.title + kSeparator + info.note + kSeparator
                + std::to_string(t.apron) + kSeparator + std::to_string(bits));
        },
        {spec.seconds, spec.bytes});
    const std::string text = asked.report.text.data();
    const auto problem = [&spec](std::string what) { return Problem{spec.file.string(), "", std::move(what)}; };
    if (asked.end == ChildEnd::Hung)
        return problem("does not end while it is loaded");
    if (asked.end == ChildEnd::Crashed)
        return problem(std::string("crashes while it is loaded")
            + (asked.signal == 0 ? "" : std::string(" (") + strsignal(asked.signal) + ")"));
    if (text.empty() || text[0] == '!')
        return problem(text.empty() ? "gives no method" : text.substr(1));
    std::array<std::string, 5> parts;
    std::size_t from = 0;
    for (std::string& part : parts) {
        const std::size_t to = std::min(text.find(kSeparator, from), text.size());
        part = text.substr(from, to - from);
        from = to + 1;
    }
    const unsigned bits = static_cast<unsigned>(std::strtoul(parts[4].c_str(), nullptr, 10));
    const auto has = [bits](unsigned bit) { return (bits >> bit & 1U) != 0; };
    return MethodInfo{parts[0], parts[1], parts[2],
        {.makesTriangles = has(0),
            .mergesFaces = has(1),
            .drawsHidden = has(2),
            .apron = std::atoi(parts[3].c_str()),
            .takesOcclusion = has(3),
            .takesSeams = has(4),
            .keepsCubes = has(5)}};
}

/// The first fault, with fewer and fewer voxels until time is up.
MethodFault shrunk(const MethodCheckSpec& spec, const MethodInfo& info, const SideRules& rules, ChildResult found,
    const PaddedVoxels& voxels)
{
    const FaultKind kind = kindOf(found);
    constexpr double kHangSeconds = 0.1; // every try of a hang takes this long
    constexpr std::size_t kFewBytes = std::size_t{64} << 20U; // and of memory that is filled
    const ChildLimits limits{kind == FaultKind::Hang ? std::min(spec.seconds, kHangSeconds) : spec.seconds,
        kind == FaultKind::OutOfMemory ? std::min(spec.bytes, kFewBytes) : spec.bytes};
    const auto deadline = std::chrono::steady_clock::now()
        + std::chrono::microseconds(static_cast<std::int64_t>(spec.shrinkSeconds * 1e6));
    PaddedVoxels least = shrinkVoxels(
        voxels,
        [&](const PaddedVoxels& fewer) {
            ChildResult result = runInChild(
                [&](ChildReport& report) {
                    if (const auto library = Library::open(spec.file))
                        runCase(library.value(), fewer, spec.blocks, rules, report);
                },
                limits);
            const bool isSame = isFault(result) && kindOf(result) == kind;
            if (isSame)
                found = std::move(result);
            return isSame;
        },
        deadline);
    return {kind, whatOf(kind, found, spec, info.name), std::move(least)};
}

} // namespace

const char* textOf(FaultKind kind)
{
    constexpr std::array<const char*, 7> kTexts{
        "crash", "hang", "out of memory", "out of bounds", "refused", "wrong surface", "leak"};
    return kTexts[static_cast<std::size_t>(kind)];
}

Outcome<MethodCheck> checkMethod(const MethodCheckSpec& spec, const std::stop_token& stop)
{
    auto info = infoOf(spec);
    if (!info)
        return info.problem();
    MethodCheck out;
    out.method = info.take();
    const SideRules rules = sideRulesOf(spec.blocks);
    const std::vector<PaddedVoxels> cases = casesOf(rules, out.method.traits.apron);
    // The child is asked for all cases; a step is a case that has begun.
    const ChildResult ran = runInChild(
        [&](ChildReport& report) {
            const auto library = Library::open(spec.file);
            if (!library)
                throw std::runtime_error(library.problem().what);
            for (const PaddedVoxels& voxels : cases) {
                ++report.step;
                runCase(library.value(), voxels, spec.blocks, rules, report);
                if (report.text[0] != 0 || stop.stop_requested())
                    return;
            }
            ++report.step;
            report.say(leakOf(library.value(), cases[kBorderCases + 10], rules, report));
        },
        {spec.seconds, spec.bytes});
    out.cases = std::min(ran.report.step, static_cast<int>(cases.size()));
    if (!isFault(ran))
        return out;
    if (ran.report.step > static_cast<int>(cases.size()))
        out.fault = MethodFault{ran.end == ChildEnd::Done ? FaultKind::Leak : kindOf(ran),
            ran.end == ChildEnd::Done ? ran.report.text.data() : whatOf(kindOf(ran), ran, spec, out.method.name), {}};
    else if (ran.report.step == 0)
        out.fault = MethodFault{kindOf(ran), whatOf(kindOf(ran), ran, spec, out.method.name), {}};
    else
        out.fault = shrunk(spec, out.method, rules, ran, cases[static_cast<std::size_t>(ran.report.step) - 1]);
    return out;
}

std::string sentenceOf(const MethodFault& fault, const BlockSet& blocks)
{
    const PaddedVoxels& at = fault.counterexample;
    if (at.edge == 0)
        return fault.what;
    constexpr std::size_t kNamed = 4;
    std::vector<std::string> named;
    std::size_t count = 0;
    for (int y = -at.apron; y < at.edge + at.apron; ++y)
        for (int z = -at.apron; z < at.edge + at.apron; ++z)
            for (int x = -at.apron; x < at.edge + at.apron; ++x)
                if (const Material material = at.at(x, y, z); material != kOpen && count++ < kNamed)
                    named.push_back(blocks.kinds[material].name + " at " + std::to_string(x) + ", " + std::to_string(y)
                        + ", " + std::to_string(z));
    std::string where = " in a chunk of edge " + std::to_string(at.edge) + " with " + counted(count, "voxel");
    if (count == 0)
        where = " in an empty chunk of edge " + std::to_string(at.edge);
    for (std::size_t i = 0; i < named.size(); ++i)
        where += (i == 0 ? ": " : "; ") + named[i];
    return fault.what + where + (count > named.size() ? " and more" : "");
}

} // namespace fell::audit

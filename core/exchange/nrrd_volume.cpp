// SPDX-License-Identifier: Apache-2.0
#include <fell/exchange/nrrd_volume.h>

#include <fell/input/text_file.h>

#include <zlib.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <cstring>
#include <sstream>

namespace fell::exchange {
namespace {

struct Type {
    const char* names; // between spaces
    const char* id;
    std::size_t bytes;
};
constexpr std::array<Type, 8> kTypes{{
    {" int8 int8_t signed_char ", "int8", 1},
    {" uint8 uint8_t uchar unsigned_char ", "uint8", 1},
    {" int16 int16_t short signed_short ", "int16", 2},
    {" uint16 uint16_t ushort unsigned_short ", "uint16", 2},
    {" int32 int32_t int signed_int ", "int32", 4},
    {" uint32 uint32_t uint unsigned_int ", "uint32", 4},
    {" float ", "float", 4},
    {" double ", "double", 8},
}};

const Type* typeOf(std::string name)
{
    std::replace(name.begin(), name.end(), ' ', '_');
    const auto found = std::find_if(kTypes.begin(), kTypes.end(),
        [&name](const Type& type) { return std::string(type.names).find(" " + name + " ") != std::string::npos; });
    return found == kTypes.end() ? nullptr : &*found;
}

std::string trimmed(std::string text)
{
    const auto isSpace = [](char c) { return c == ' ' || c == '\t' || c == '\r'; };
    while (!text.empty() && isSpace(text.back()))
        text.pop_back();
    while (!text.empty() && isSpace(text.front()))
        text.erase(text.begin());
    return text;
}

std::string lower(std::string text)
{
    std::transform(text.begin(), text.end(), text.begin(), [](unsigned char c) { return std::tolower(c); });
    return text;
}

struct Header {
    std::map<std::string, std::string> fields, notes;
    std::size_t end = 0; // where the data begins
};

std::optional<Header> headerOf(std::string_view bytes)
{
    constexpr std::size_t kLongest = 1 << 20;
    Header out;
    std::size_t at = bytes.find('\n');
    if (at == std::string_view::npos || bytes.substr(0, 5) != "NRRD0")
        return std::nullopt;
    for (++at; at < std::min(bytes.size(), kLongest);) {
        const std::size_t end = std::min(bytes.find('\n', at), bytes.size());
        const std::string line = trimmed(std::string(bytes.substr(at, end - at)));
        at = end + 1;
        if (line.empty()) {
            out.end = std::min(at, bytes.size());
            return out;
        }
        if (line[0] == '#')
            continue;
        if (const std::size_t note = line.find(":="); note != std::string::npos)
            out.notes[line.substr(0, note)] = line.substr(note + 2);
        else if (const std::size_t colon = line.find(':'); colon != std::string::npos)
            out.fields[lower(line.substr(0, colon))] = trimmed(line.substr(colon + 1));
    }
    return std::nullopt;
}

/// Where each axis of the file goes: 0 x, 1 y, 2 z, and whether it runs against it.
struct Axes {
    std::array<int, 3> to{0, 1, 2};
    std::array<bool, 3> isBackward{};
};

bool isEachOnce(const std::array<int, 3>& to)
{
    return std::array<bool, 3>{true, true, true} == [&to] {
        std::array<bool, 3> seen{};
        for (const int axis : to)
            if (axis >= 0 && axis < 3)
                seen[static_cast<std::size_t>(axis)] = true;
        return seen;
    }();
}

std::optional<Axes> axesByLabels(const std::string& labels)
{
    Axes axes;
    std::size_t found = 0;
    for (std::size_t at = labels.find('"'); at != std::string::npos && found < 3; at = labels.find('"', at)) {
        const std::size_t end = labels.find('"', at + 1);
        if (end == std::string::npos)
            return std::nullopt;
        const std::string label = lower(labels.substr(at + 1, end - at - 1));
        axes.to[found++] = label == "x" ? 0 : label == "y" ? 1 : label == "z" ? 2 : -1;
        at = end + 1;
    }
    return found == 3 && isEachOnce(axes.to) ? std::optional(axes) : std::nullopt;
}

std::optional<Axes> axesByDirections(const std::string& directions)
{
    Axes axes;
    std::size_t found = 0;
    for (std::size_t at = directions.find('('); at != std::string::npos && found < 3;
         at = directions.find('(', at + 1)) {
        std::array<double, 3> along{};
        const std::string text = directions.substr(at + 1, directions.find(')', at) - at - 1);
        std::istringstream in(text);
        in.imbue(std::locale::classic());
        for (std::size_t i = 0; i < 3; ++i) {
            in >> along[i];
            in.ignore(1, ',');
        }
        const auto longest = std::max_element(
            along.begin(), along.end(), [](double a, double b) { return std::abs(a) < std::abs(b); });
        axes.to[found] = static_cast<int>(longest - along.begin());
        axes.isBackward[found++] = *longest < 0;
    }
    return found == 3 && isEachOnce(axes.to) ? std::optional(axes) : std::nullopt;
}

std::optional<std::string> unzipped(std::string_view bytes, std::size_t wanted)
{
    std::string out(wanted, '\0');
    z_stream stream{};
    constexpr int kGzip = 15 + 32; // gzip or zlib, as its header says
    if (inflateInit2(&stream, kGzip) != Z_OK)
        return std::nullopt;
    stream.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(bytes.data())); // NOLINT: zlib only reads it
    stream.avail_in = static_cast<uInt>(bytes.size());
    stream.next_out = reinterpret_cast<Bytef*>(out.data()); // NOLINT
    stream.avail_out = static_cast<uInt>(wanted);
    const int ended = inflate(&stream, Z_FINISH);
    const bool isAll = stream.avail_out == 0 && (ended == Z_STREAM_END || ended == Z_BUF_ERROR || ended == Z_OK);
    inflateEnd(&stream);
    return isAll ? std::optional(std::move(out)) : std::nullopt;
}

template <typename T> double number(const char* bytes, bool isBigEndian)
{
    std::array<char, sizeof(T)> in{};
    std::memcpy(in.data(), bytes, sizeof(T));
    if (isBigEndian)
        std::reverse(in.begin(), in.end());
    T out{};
    std::memcpy(&out, in.data(), sizeof(T));
    return static_cast<double>(out);
}

} // namespace

double NrrdVolume::at(std::int64_t x, std::int64_t y, std::int64_t z) const
{
    const auto index = static_cast<std::size_t>(first + x * stride[0] + y * stride[1] + z * stride[2]);
    const auto read = [&]<typename T>(T) { return number<T>(bytes.data() + index * sizeof(T), isBigEndian); };
    return type == "uint8" ? read(std::uint8_t{})
        : type == "int8"   ? read(std::int8_t{})
        : type == "uint16" ? read(std::uint16_t{})
        : type == "int16"  ? read(std::int16_t{})
        : type == "uint32" ? read(std::uint32_t{})
        : type == "int32"  ? read(std::int32_t{})
        : type == "float"  ? read(float{})
                           : read(double{});
}

Outcome<NrrdVolume> readNrrd(const std::filesystem::path& file)
{
    const auto text = readFile(file, kLargestVolume + (1 << 20));
    if (!text)
        return text.problem();
    return parseNrrd(text.value(), file.string());
}

Outcome<NrrdVolume> parseNrrd(std::string_view bytes, const std::string& where)
{
    auto header = headerOf(bytes);
    if (!header)
        return Problem{where, "", "is no NRRD file, or its header does not end: an empty line is expected after it"};
    auto& fields = header->fields;
    NrrdVolume out;
    out.notes = std::move(header->notes);
    const Type* type = typeOf(lower(fields["type"]));
    if (!type)
        return Problem{where, "type", "is \"" + fields["type"] + "\", allowed are int8 to uint32, float and double"};
    out.type = type->id;
    out.isBigEndian = lower(fields["endian"]) == "big";
    if (fields["dimension"] != "3")
        return Problem{where, "dimension", "is \"" + fields["dimension"] + "\", three axes are expected"};
    if (fields.count("data file") > 0 || fields.count("datafile") > 0)
        return Problem{where, "data file", "says that the data is elsewhere; it must stand behind the header"};
    std::istringstream sizes(fields["sizes"]);
    std::array<std::int64_t, 3> along{};
    std::size_t count = type->bytes;
    for (auto& one : along) {
        if (!(sizes >> one) || one < 1 || one > kLongestVolume)
            return Problem{where, "sizes",
                "are \"" + fields["sizes"] + "\", three from 1 to " + std::to_string(kLongestVolume) + " are expected"};
        count *= static_cast<std::size_t>(one);
    }
    if (count > kLargestVolume)
        return Problem{where, "sizes", "come to more than " + std::to_string(kLargestVolume >> 20) + " MiB"};
    const std::string encoding = lower(fields["encoding"]);
    const std::string_view data = bytes.substr(header->end);
    if (encoding == "raw") {
        if (data.size() < count)
            return Problem{where, "",
                "ends early: " + std::to_string(count) + " bytes of data are expected, " + std::to_string(data.size())
                    + " are there"};
        out.bytes = data.substr(0, count);
    } else if (encoding == "gzip" || encoding == "gz") {
        auto plain = unzipped(data, count);
        if (!plain)
            return Problem{
                where, "", "has data that gzip cannot read, or less than " + std::to_string(count) + " bytes"};
        out.bytes = std::move(*plain);
    } else {
        return Problem{where, "encoding", "is \"" + fields["encoding"] + "\", allowed are raw and gzip"};
    }
    auto axes = axesByLabels(fields["labels"]);
    if (!axes)
        axes = axesByDirections(fields["space directions"]);
    const Axes order = axes.value_or(Axes{});
    std::int64_t stride = 1;
    for (std::size_t i = 0; i < 3; ++i) {
        const auto to = static_cast<std::size_t>(order.to[i]);
        out.size[to] = along[i];
        out.stride[to] = order.isBackward[i] ? -stride : stride;
        out.first += order.isBackward[i] ? stride * (along[i] - 1) : 0;
        stride *= along[i];
    }
    return out;
}

Outcome<VolumeRule> ruleOf(const NrrdVolume& volume, const BlockSet& blocks)
{
    VolumeRule rule;
    for (const auto& [key, value] : volume.notes) {
        if (key.rfind("material ", 0) != 0)
            continue;
        std::int64_t id = -1;
        std::from_chars(key.data() + 9, key.data() + key.size(), id);
        const std::string name = value.substr(0, value.find(' '));
        const auto material = findMaterial(blocks, name);
        if (!material)
            return Problem{key, "", "is \"" + name + "\", which the world's block set does not have"};
        if (*material != kOpen)
            rule.ids[id] = *material;
    }
    if (rule.ids.empty())
        for (std::size_t m = 1; m < blocks.kinds.size(); ++m)
            rule.ids[static_cast<std::int64_t>(m)] = static_cast<Material>(m);
    return rule;
}

bool eachChunkOf(const NrrdVolume& volume, const VolumeRule& rule, VoxelPos at,
    const std::function<bool(std::vector<StoredChunk> layer, double share)>& take)
{
    const auto materialOf = [&rule](double value) -> Material {
        if (rule.above)
            return value > *rule.above ? rule.material : kOpen;
        const auto found = std::abs(value) < 1e15 ? rule.ids.find(std::llround(value)) : rule.ids.end();
        return found == rule.ids.end() ? kOpen : found->second;
    };
    const VoxelPos high = at + VoxelPos{volume.size[0], volume.size[1], volume.size[2]};
    const ChunkPos first = chunkOf(at, kKeptEdge), last = chunkOf(high - VoxelPos{1, 1, 1}, kKeptEdge);
    for (std::int64_t cy = first.y; cy <= last.y; ++cy) {
        std::vector<StoredChunk> layer;
        for (std::int64_t cz = first.z; cz <= last.z; ++cz)
            for (std::int64_t cx = first.x; cx <= last.x; ++cx) {
                StoredChunk chunk{{cx, cy, cz}, {}, nullptr};
                const VoxelPos low = originOf(chunk.chunk, kKeptEdge);
                for (int i = 0; i < kKeptEdge * kKeptEdge * kKeptEdge; ++i) {
                    const VoxelPos voxel
                        = low + VoxelPos{i % kKeptEdge, i / kKeptEdge / kKeptEdge, i / kKeptEdge % kKeptEdge};
                    const VoxelPos in = voxel - at;
                    if (in.x < 0 || in.y < 0 || in.z < 0 || voxel.x >= high.x || voxel.y >= high.y || voxel.z >= high.z)
                        continue;
                    if (const Material m = materialOf(volume.at(in.x, in.y, in.z)); m != kOpen)
                        chunk.changed.push_back({static_cast<std::uint16_t>(i), m});
                }
                if (!chunk.changed.empty())
                    layer.push_back(std::move(chunk));
            }
        if (!take(std::move(layer), static_cast<double>(cy - first.y + 1) / static_cast<double>(last.y - first.y + 1)))
            return false;
    }
    return true;
}

} // namespace fell::exchange

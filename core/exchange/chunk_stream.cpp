// SPDX-License-Identifier: Apache-2.0
#include <fell/exchange/chunk_stream.h>

#include <fell/input/text_file.h>

#include <algorithm>
#include <bit>
#include <cstring>
#include <fstream>
#include <iostream>
#include <sstream>
#include <zstd.h>

namespace fell::exchange {
namespace {

namespace fs = std::filesystem;

constexpr std::string_view kMagic = "fell-chunks 1 ", kChunkMagic = "CHNK", kEndMagic = "END.";
constexpr std::size_t kLongestHeader = std::size_t{1} << 20; // bytes
constexpr std::size_t kHeadBytes = 24; // of a chunk: magic, x, y, z, encoding, compression, two zeros, bytes
constexpr std::int64_t kFarthestChunk = 10'000'000;

template <typename T> T littleEndian(const char* bytes)
{
    T out = 0;
    for (std::size_t i = 0; i < sizeof(T); ++i)
        out = static_cast<T>(out | static_cast<T>(static_cast<T>(static_cast<unsigned char>(bytes[i])) << (8 * i)));
    return out;
}

/// The ids of a chunk in runs: pairs of how many and which. Nothing where they do not come to `count`.
bool readRuns(std::string_view bytes, std::size_t count, std::vector<std::uint16_t>& out)
{
    out.clear();
    out.reserve(count);
    if (bytes.size() % 6 != 0)
        return false;
    for (std::size_t at = 0; at < bytes.size(); at += 6) {
        const auto run = littleEndian<std::uint32_t>(bytes.data() + at);
        if (run == 0 || run > count - out.size())
            return false;
        out.insert(out.end(), run, littleEndian<std::uint16_t>(bytes.data() + at + 4));
    }
    return out.size() == count;
}

/// A palette and numbers of as few bits as name its entries, lowest bits of a byte first.
bool readBits(std::string_view bytes, std::size_t count, std::vector<std::uint16_t>& out)
{
    if (bytes.size() < 2)
        return false;
    const std::size_t entries = littleEndian<std::uint16_t>(bytes.data());
    if (entries == 0 || bytes.size() < 2 + 2 * entries)
        return false;
    const auto width = static_cast<std::size_t>(std::bit_width(entries - 1));
    const std::string_view packed = bytes.substr(2 + 2 * entries);
    if (packed.size() != (count * width + 7) / 8)
        return false;
    const auto entryAt = [&](std::size_t i) { return littleEndian<std::uint16_t>(bytes.data() + 2 + 2 * i); };
    out.resize(count);
    std::uint64_t word = 0;
    std::size_t held = 0, next = 0;
    for (std::size_t i = 0; i < count; ++i) {
        for (; held < width; held += 8)
            word |= static_cast<std::uint64_t>(static_cast<unsigned char>(packed[next++])) << held;
        const std::size_t entry = word & ((std::uint64_t{1} << width) - 1);
        word >>= width;
        held -= width;
        if (entry >= entries)
            return false;
        out[i] = entryAt(entry);
    }
    return true;
}

bool readRaw(std::string_view bytes, std::size_t count, std::vector<std::uint16_t>& out)
{
    if (bytes.size() != 2 * count)
        return false;
    out.resize(count);
    for (std::size_t i = 0; i < count; ++i)
        out[i] = littleEndian<std::uint16_t>(bytes.data() + 2 * i);
    return true;
}

class Reader final : public ForeignChunks {
public:
    explicit Reader(const fs::path& from)
        : m_from(from.filename() == "fell-chunks.json" ? fs::absolute(from).parent_path() : from)
    {
    }
    Reader(std::string bytes, std::string where)
        : m_memory(std::move(bytes))
        , m_in(&m_memory)
        , m_place(std::move(where))
    {
    }

    std::optional<Problem> begin()
    {
        std::error_code error;
        if (m_in)
            return readHead();
        if (m_from == "-") {
            m_in = &std::cin;
            m_place = "standard input";
        } else if (fs::is_directory(m_from, error)) {
            return beginFolder();
        } else if (auto problem = openFile(m_from)) {
            return problem;
        } else {
            m_bytes = fs::file_size(m_from, error);
        }
        return readHead();
    }

    Outcome<bool> next(ForeignChunk& out) override
    {
        std::array<char, kHeadBytes> head{};
        for (;;) {
            const std::uint64_t begins = m_read;
            const std::size_t got = take(head.data(), 4);
            if (got == 0 && m_isFolder) {
                if (m_files.empty())
                    return false;
                if (auto problem = openFile(m_files.back()))
                    return *problem;
                m_files.pop_back();
                continue;
            }
            if (got == 0)
                return at(begins, "ends without its last record, END.: it was cut short");
            if (got == 4 && std::string_view(head.data(), 4) == kEndMagic && !m_isFolder)
                return readEnd(begins);
            if (got < 4 || std::string_view(head.data(), 4) != kChunkMagic)
                return at(begins, "has neither CHNK nor END. where a record begins");
            if (take(head.data() + 4, kHeadBytes - 4) < kHeadBytes - 4)
                return at(begins, "ends within a record");
            return readChunk(head, begins, out);
        }
    }

    [[nodiscard]] double share() const override
    {
        return m_bytes == 0 ? 0 : std::min(1.0, static_cast<double>(m_total) / static_cast<double>(m_bytes));
    }

private:
    std::optional<Problem> openFile(const fs::path& file)
    {
        m_file = std::ifstream(file, std::ios::binary);
        m_in = &m_file;
        m_place = file.string();
        m_read = 0;
        if (!m_file)
            return Problem{m_place, "", "cannot be read: a file of chunks is expected"};
        return std::nullopt;
    }

    std::optional<Problem> beginFolder()
    {
        const auto text = readFile(m_from / "fell-chunks.json", kLongestHeader);
        if (!text)
            return text.problem();
        auto header = parseForeignHeader(text.value(), (m_from / "fell-chunks.json").string());
        if (!header)
            return header.problem();
        m_header = header.take();
        m_isFolder = true;
        std::error_code error;
        for (const auto& entry : fs::directory_iterator(m_from, error))
            if (entry.path().extension() == ".chunk") {
                m_files.push_back(entry.path());
                m_bytes += entry.file_size(error);
            }
        std::sort(m_files.rbegin(), m_files.rend()); // the last is read first
        if (m_files.empty())
            return Problem{m_from.string(), "", "contains no file *.chunk: one or more are expected"};
        return std::nullopt;
    }

    std::optional<Problem> readHead()
    {
        std::string line;
        for (char c = 0; line.size() < 40 && take(&c, 1) == 1 && c != '\n';)
            line += c;
        const bool isOurs = line.starts_with(kMagic);
        const std::string digits = isOurs ? line.substr(kMagic.size()) : "";
        const bool isNumber = !digits.empty() && digits.size() < 8
            && std::all_of(digits.begin(), digits.end(), [](char c) { return c >= '0' && c <= '9'; });
        if (!isNumber)
            return Problem{m_place, "", "begins not with \"fell-chunks 1 BYTES\": a file of chunks is expected"};
        const std::size_t length = std::stoul(digits);
        if (length > kLongestHeader)
            return Problem{m_place, "",
                "has a header of " + digits + " bytes, at most " + std::to_string(kLongestHeader) + " are allowed"};
        std::string json(length, '\0');
        if (take(json.data(), length) < length)
            return Problem{m_place, "", "ends within its header: write all of it again"};
        auto header = parseForeignHeader(json, m_place);
        if (!header)
            return header.problem();
        m_header = header.take();
        return std::nullopt;
    }

    Outcome<bool> readEnd(std::uint64_t begins)
    {
        std::array<char, 4> count{};
        if (take(count.data(), 4) < 4)
            return at(begins, "ends within its last record");
        if (const auto said = littleEndian<std::uint32_t>(count.data()); said != m_count)
            return at(
                begins, "has " + std::to_string(m_count) + " chunks and says that there are " + std::to_string(said));
        return false;
    }

    Outcome<bool> readChunk(const std::array<char, kHeadBytes>& head, std::uint64_t begins, ForeignChunk& out)
    {
        for (std::size_t i = 0; i < 3; ++i) {
            out.at[i] = static_cast<std::int32_t>(littleEndian<std::uint32_t>(head.data() + 4 + 4 * i));
            if (out.at[i] > kFarthestChunk || out.at[i] < -kFarthestChunk)
                return at(begins, "has a chunk farther than " + std::to_string(kFarthestChunk) + " chunks away");
        }
        const auto encoding = static_cast<unsigned char>(head[16]), compression = static_cast<unsigned char>(head[17]);
        const std::size_t length = littleEndian<std::uint32_t>(head.data() + 20), count = m_header.voxels();
        if (encoding > 2 || compression > 1)
            return at(begins,
                "has encoding " + std::to_string(encoding) + " and compression " + std::to_string(compression)
                    + "; 0 to 2 and 0 to 1 are allowed");
        // Runs of one voxel are the longest that a chunk can be; a palette has 65,535 entries at most.
        const std::size_t longest = std::max(6 * count, 4 * count + 2 * 65536);
        if (length > longest)
            return at(begins, "has a chunk of " + std::to_string(length) + " bytes, more than any of its size");
        m_payload.resize(length);
        if (take(m_payload.data(), length) < length)
            return at(begins, "ends within a chunk");
        std::string_view bytes = m_payload;
        if (compression == 1) {
            const auto plain = ZSTD_getFrameContentSize(m_payload.data(), length);
            if (plain == ZSTD_CONTENTSIZE_ERROR || plain == ZSTD_CONTENTSIZE_UNKNOWN || plain > longest)
                return at(begins, "has a chunk that zstd cannot read, or whose size it does not say");
            m_plain.resize(plain);
            const std::size_t got = ZSTD_decompress(m_plain.data(), m_plain.size(), m_payload.data(), length);
            if (ZSTD_isError(got) != 0U || got != plain)
                return at(begins, "has a chunk that zstd cannot read");
            bytes = m_plain;
        }
        const bool isRead = encoding == 0 ? readRaw(bytes, count, out.ids)
            : encoding == 1               ? readRuns(bytes, count, out.ids)
                                          : readBits(bytes, count, out.ids);
        if (!isRead)
            return at(begins, "has a chunk whose bytes are not those of " + std::to_string(count) + " voxels");
        ++m_count;
        return true;
    }

    Problem at(std::uint64_t byte, const std::string& what) const
    {
        return {m_place, "byte " + std::to_string(byte), what};
    }

    std::size_t take(char* to, std::size_t bytes)
    {
        if (!m_in) // of a folder no file is open yet
            return 0;
        m_in->read(to, static_cast<std::streamsize>(bytes));
        const auto got = static_cast<std::size_t>(m_in->gcount());
        m_read += got;
        m_total += got;
        return got;
    }

    fs::path m_from;
    std::ifstream m_file;
    std::istringstream m_memory;
    std::istream* m_in = nullptr;
    std::string m_place;
    std::vector<fs::path> m_files; // of a folder, that are not read yet
    bool m_isFolder = false;
    std::uint64_t m_read = 0, m_total = 0, m_bytes = 0; // of the file at hand, of all, that there are
    std::uint64_t m_count = 0; // chunks
    std::string m_payload, m_plain;
};

} // namespace

Outcome<std::unique_ptr<ForeignChunks>> ForeignChunks::open(const fs::path& from)
{
    auto reader = std::make_unique<Reader>(from);
    if (auto problem = reader->begin())
        return *problem;
    return std::unique_ptr<ForeignChunks>(std::move(reader));
}

Outcome<std::unique_ptr<ForeignChunks>> ForeignChunks::parse(std::string bytes, const std::string& where)
{
    auto reader = std::make_unique<Reader>(std::move(bytes), where);
    if (auto problem = reader->begin())
        return *problem;
    return std::unique_ptr<ForeignChunks>(std::move(reader));
}

} // namespace fell::exchange

// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/height_map.h>

#include <fell/input/text_file.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <csignal>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <mutex>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

namespace fell::terrain {
namespace {

constexpr std::array<char, 8> kMagic{'F', 'E', 'L', 'L', 'H', 'G', 'T', '1'};
constexpr std::size_t kHeader = 16, kTileBytes = std::size_t{2} * kHeightTile * kHeightTile;

int tilesFor(int samples)
{
    return (samples + kHeightTile - 1) / kHeightTile;
}

std::uint32_t word(const std::uint8_t* bytes)
{
    return bytes[0] | std::uint32_t{bytes[1]} << 8 | std::uint32_t{bytes[2]} << 16 | std::uint32_t{bytes[3]} << 24;
}

std::filesystem::path partOf(std::filesystem::path file)
{
    return file += "." + std::to_string(::getpid()) + ".part"; // two imports of one name do not share it
}

struct Range {
    std::atomic<std::uintptr_t> from{0}; // 0: not in use
    std::atomic<std::size_t> size{0};
};

/// The mappings of the process. A page that its file does not have any more is a signal, SIGBUS: a page of zeros takes
/// its place, so that the process goes on. Fixed size and atomics: the handler may take no lock and no memory.
class Mappings {
public:
    static void add(const void* bytes, std::size_t size)
    {
        static std::once_flag once;
        std::call_once(once, [] {
            struct sigaction action { };
            action.sa_sigaction = onBusError;
            action.sa_flags = SA_SIGINFO;
            ::sigaction(SIGBUS, &action, &s_before);
        });
        for (Range& range : s_ranges) {
            std::uintptr_t none = 0;
            if (range.from.compare_exchange_strong(none, 1)) {
                range.size = size;
                range.from = reinterpret_cast<std::uintptr_t>(bytes);
                return;
            }
        }
    }
    static void remove(const void* bytes)
    {
        for (Range& range : s_ranges)
            if (range.from == reinterpret_cast<std::uintptr_t>(bytes))
                range.from = 0;
    }
    static bool isCut() { return s_isCut; }

private:
    static void onBusError(int signal, siginfo_t* info, void* context)
    {
        const auto at = reinterpret_cast<std::uintptr_t>(info->si_addr);
        const auto page = static_cast<std::size_t>(::sysconf(_SC_PAGESIZE));
        for (const Range& range : s_ranges)
            if (const std::uintptr_t from = range.from; from > 1 && at >= from && at - from < range.size) {
                void* const place = reinterpret_cast<void*>(at / page * page); // NOLINT(performance-no-int-to-ptr)
                if (::mmap(place, page, PROT_READ, MAP_PRIVATE | MAP_ANONYMOUS | MAP_FIXED, -1, 0) != MAP_FAILED) {
                    s_isCut = true;
                    return;
                }
            }
        // None of ours: as if this handler were not there. The access is tried again.
        if ((s_before.sa_flags & SA_SIGINFO) != 0 && s_before.sa_sigaction)
            s_before.sa_sigaction(signal, info, context);
        else
            ::sigaction(SIGBUS, &s_before, nullptr);
    }
    static inline std::array<Range, 256> s_ranges;
    static inline std::atomic<bool> s_isCut{false};
    static inline struct sigaction s_before {
    };
};

} // namespace

Outcome<std::shared_ptr<const HeightMap>> HeightMap::open(const std::filesystem::path& file)
{
    const int handle = ::open(file.c_str(),
        O_RDONLY | O_NONBLOCK | O_CLOEXEC); // NOLINT(cppcoreguidelines-pro-type-vararg): a pipe does not hold it
    if (handle < 0)
        return Problem{
            file.string(), "", std::string("cannot be read: ") + std::strerror(errno)}; // NOLINT(concurrency-mt-unsafe)
    struct stat about { };
    const bool isFile = ::fstat(handle, &about) == 0 && S_ISREG(about.st_mode);
    const auto size = static_cast<std::size_t>(isFile ? about.st_size : 0);
    std::array<std::uint8_t, kHeader> head{};
    const bool hasHead = size > kHeader && ::pread(handle, head.data(), head.size(), 0) == ssize_t{kHeader};
    void* mapped = hasHead ? ::mmap(nullptr, size, PROT_READ, MAP_SHARED, handle, 0) : MAP_FAILED;
    ::close(handle);
    if (mapped == MAP_FAILED)
        return Problem{file.string(), "", "is no height map of Fell; fell-cli world import makes one"};
    const auto* bytes = static_cast<const std::uint8_t*>(mapped);
    const std::uint32_t width = word(head.data() + 8), height = word(head.data() + 12);
    const bool isKnown = std::memcmp(head.data(), kMagic.data(), kMagic.size()) == 0 && width >= 1 && height >= 1
        && width <= kLongestHeightMap && height <= kLongestHeightMap;
    const std::size_t wanted = isKnown ? kHeader
            + kTileBytes * static_cast<std::size_t>(tilesFor(static_cast<int>(width)))
                * static_cast<std::size_t>(tilesFor(static_cast<int>(height)))
                                       : SIZE_MAX;
    if (size < wanted) {
        ::munmap(mapped, size);
        return Problem{file.string(), "",
            isKnown ? "is shorter than its header says" : "is no height map of Fell; fell-cli world import makes one"};
    }
    return std::shared_ptr<const HeightMap>(
        new HeightMap(bytes, size, static_cast<int>(width), static_cast<int>(height)));
}

HeightMap::HeightMap(const std::uint8_t* bytes, std::size_t size, int width, int height)
    : m_bytes(bytes)
    , m_size(size)
    , m_width(width)
    , m_height(height)
    , m_across(tilesFor(width))
{
    Mappings::add(bytes, size);
}

HeightMap::~HeightMap()
{
    Mappings::remove(m_bytes);
    ::munmap(const_cast<std::uint8_t*>(m_bytes), m_size); // NOLINT(cppcoreguidelines-pro-type-const-cast)
}

bool HeightMap::isCut()
{
    return Mappings::isCut();
}

double HeightMap::sample(int x, int z) const
{
    const auto tile = static_cast<std::size_t>(z / kHeightTile * m_across + x / kHeightTile);
    const auto within = static_cast<std::size_t>(z % kHeightTile * kHeightTile + x % kHeightTile);
    const std::uint8_t* at = m_bytes + kHeader + tile * kTileBytes + 2 * within;
    return (at[0] | at[1] << 8) / 65535.0;
}

double HeightMap::at(double x, double z) const
{
    const double cx = std::clamp(x, 0.0, static_cast<double>(m_width - 1)),
                 cz = std::clamp(z, 0.0, static_cast<double>(m_height - 1));
    const int x0 = static_cast<int>(cx), z0 = static_cast<int>(cz);
    const int x1 = std::min(x0 + 1, m_width - 1), z1 = std::min(z0 + 1, m_height - 1);
    const double fx = cx - x0, fz = cz - z0;
    const double north = sample(x0, z0) + (sample(x1, z0) - sample(x0, z0)) * fx,
                 south = sample(x0, z1) + (sample(x1, z1) - sample(x0, z1)) * fx;
    return north + (south - north) * fz;
}

struct HeightMapWriter::Out {
    std::ofstream file;
};

HeightMapWriter::HeightMapWriter(std::filesystem::path file, int width, int height)
    : m_file(std::move(file))
    , m_width(width)
    , m_height(height)
    , m_band(static_cast<std::size_t>(tilesFor(width)) * kHeightTile * kHeightTile)
    , m_out(std::make_unique<Out>())
{
    m_out->file.open(partOf(m_file), std::ios::binary | std::ios::trunc);
    m_out->file.write(kMagic.data(), kMagic.size());
    for (const int size : {width, height})
        for (int shift = 0; shift < 32; shift += 8)
            m_out->file.put(static_cast<char>(size >> shift & 0xFF));
}

HeightMapWriter::~HeightMapWriter()
{
    std::error_code error;
    std::filesystem::remove(partOf(m_file), error); // it has another name once it is finished
}

void HeightMapWriter::add(std::span<const std::uint16_t> row)
{
    const int across = tilesFor(m_width), z = m_rows % kHeightTile;
    for (int x = 0; x < across * kHeightTile; ++x) {
        const auto tile = static_cast<std::size_t>(x / kHeightTile);
        m_band[(tile * kHeightTile + static_cast<std::size_t>(z)) * kHeightTile
            + static_cast<std::size_t>(x % kHeightTile)]
            = row[static_cast<std::size_t>(std::min(x, m_width - 1))];
    }
    if (++m_rows % kHeightTile == 0)
        flush();
}

void HeightMapWriter::flush()
{
    std::vector<char> bytes(2 * m_band.size());
    for (std::size_t i = 0; i < m_band.size(); ++i) {
        bytes[2 * i] = static_cast<char>(m_band[i] & 0xFF);
        bytes[2 * i + 1] = static_cast<char>(m_band[i] >> 8);
    }
    m_out->file.write(bytes.data(), static_cast<std::streamsize>(bytes.size()));
}

std::optional<Problem> HeightMapWriter::finish()
{
    if (m_rows != m_height)
        return Problem{m_file.string(), "", "has not got all of its rows: import it again"};
    if (const int rest = m_rows % kHeightTile; rest != 0) { // the last row again below it
        const std::size_t tiles = static_cast<std::size_t>(tilesFor(m_width));
        for (std::size_t tile = 0; tile < tiles; ++tile)
            for (int z = rest; z < kHeightTile; ++z)
                std::copy_n(m_band.begin()
                        + static_cast<std::ptrdiff_t>(
                            (tile * kHeightTile + static_cast<std::size_t>(rest) - 1) * kHeightTile),
                    kHeightTile,
                    m_band.begin()
                        + static_cast<std::ptrdiff_t>(
                            (tile * kHeightTile + static_cast<std::size_t>(z)) * kHeightTile));
        flush();
    }
    m_out->file.close();
    std::error_code error;
    const int part = ::open(partOf(m_file).c_str(), O_RDONLY | O_CLOEXEC); // NOLINT(cppcoreguidelines-pro-type-vararg)
    const bool isOnDisk = m_out->file && part >= 0 && ::fsync(part) == 0;
    if (part >= 0)
        ::close(part);
    if (isOnDisk)
        std::filesystem::rename(partOf(m_file), m_file, error);
    if (isOnDisk && !error)
        syncFolder(m_file.parent_path());
    if (!isOnDisk || error)
        return Problem{m_file.string(), "", "cannot be written, the disk is full or the folder is missing"};
    return std::nullopt;
}

} // namespace fell::terrain

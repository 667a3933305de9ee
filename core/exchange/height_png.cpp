// SPDX-License-Identifier: Apache-2.0
#include <fell/exchange/height_png.h>

#include <fell/terrain/height_map.h>

#include <png.h>

#include <cstdio>
#include <memory>
#include <vector>

namespace fell::exchange {
namespace {

/// What the library has to say when it gives up.
struct Trouble {
    std::string what;
};

[[noreturn]] void giveUp(png_structp png, png_const_charp what)
{
    static_cast<Trouble*>(png_get_error_ptr(png))->what = what;
    png_longjmp(png, 1);
}

void ignore(png_structp /*png*/, png_const_charp /*what*/) { }

/// A PNG while it is read. A class because it owns the library's state and the file.
class Reader {
public:
    explicit Reader(const std::filesystem::path& file)
        : m_where(file.string())
        , m_file(std::fopen(file.c_str(), "rb"), &std::fclose)
        , m_png(png_create_read_struct(PNG_LIBPNG_VER_STRING, &m_trouble, giveUp, ignore))
        , m_info(png_create_info_struct(m_png))
    {
    }
    ~Reader() { png_destroy_read_struct(&m_png, &m_info, nullptr); }
    Reader(const Reader&) = delete;
    Reader& operator=(const Reader&) = delete;

    Outcome<HeightPngInfo> open()
    {
        if (!m_file)
            return Problem{m_where, "", "cannot be read"};
        if (!header())
            return Problem{m_where, "", "is no PNG that can be read: save it as PNG again (" + m_trouble.what + ")"};
        const auto width = png_get_image_width(m_png, m_info), height = png_get_image_height(m_png, m_info);
        const int bits = png_get_bit_depth(m_png, m_info), colour = png_get_color_type(m_png, m_info);
        if (colour != PNG_COLOR_TYPE_GRAY || (bits != 8 && bits != 16))
            return Problem{m_where, "", "is no height map: grey of 8 or 16 bits without alpha is expected"};
        if (width > kLongestHeightMap || height > kLongestHeightMap)
            return Problem{m_where, "",
                "is " + std::to_string(width) + " x " + std::to_string(height) + " pixels, at most "
                    + std::to_string(kLongestHeightMap) + " either way are allowed"};
        if (png_get_interlace_type(m_png, m_info) != PNG_INTERLACE_NONE)
            return Problem{m_where, "", "is interlaced, which needs all of it in memory; save it without"};
        return HeightPngInfo{static_cast<int>(width), static_cast<int>(height), bits};
    }

    /// False where the file ends or is damaged.
    bool row(std::vector<png_byte>& into)
    {
        if (setjmp(png_jmpbuf(m_png))) // NOLINT(cert-err52-cpp): the library's way of errors
            return false;
        png_read_row(m_png, into.data(), nullptr);
        return true;
    }
    [[nodiscard]] Problem damaged(int row) const
    {
        return {m_where, "", "is damaged in row " + std::to_string(row) + " (" + m_trouble.what + ")"};
    }

private:
    bool header()
    {
        if (setjmp(png_jmpbuf(m_png))) // NOLINT(cert-err52-cpp)
            return false;
        png_set_user_limits(m_png, 1U << 20, 1U << 20);
        png_init_io(m_png, m_file.get());
        png_read_info(m_png, m_info);
        return true;
    }

    std::string m_where;
    Trouble m_trouble;
    std::unique_ptr<std::FILE, int (*)(std::FILE*)> m_file;
    png_structp m_png;
    png_infop m_info;
};

} // namespace

Outcome<HeightPngInfo> heightPngInfo(const std::filesystem::path& file)
{
    return Reader(file).open();
}

std::optional<Problem> importHeightPng(const std::filesystem::path& file, const std::filesystem::path& out,
    const std::function<bool(double share)>& progress)
{
    Reader reader(file);
    const auto opened = reader.open();
    if (!opened)
        return opened.problem();
    const HeightPngInfo info = opened.value();
    HeightMapWriter writer(out, info.width, info.height);
    const auto width = static_cast<std::size_t>(info.width);
    std::vector<png_byte> bytes(width * static_cast<std::size_t>(info.bits) / 8);
    std::vector<std::uint16_t> row(width);
    for (int z = 0; z < info.height; ++z) {
        if (!reader.row(bytes))
            return reader.damaged(z);
        for (std::size_t x = 0; x < width; ++x)
            row[x] = info.bits == 8 ? static_cast<std::uint16_t>(bytes[x] * 257)
                                    : static_cast<std::uint16_t>(bytes[2 * x] << 8 | bytes[2 * x + 1]);
        writer.add(row);
        if (z % kHeightTile == 0 && progress && !progress(static_cast<double>(z) / info.height))
            return Problem{file.string(), "", "was not imported: it was stopped"};
    }
    return writer.finish();
}

} // namespace fell::exchange

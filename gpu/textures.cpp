// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/textures.h>

#include <fell/input/text_file.h>

#include <algorithm>

#pragma GCC diagnostic push
#pragma GCC diagnostic ignored "-Wmissing-field-initializers"
#pragma GCC diagnostic ignored "-Wunused-function"
#define STB_IMAGE_IMPLEMENTATION
#define STB_IMAGE_STATIC
#define STBI_ONLY_PNG
#include <stb/stb_image.h>
#pragma GCC diagnostic pop

namespace fell::gpu {
namespace {

constexpr std::size_t kLayerBytes = std::size_t{kTextureEdge} * kTextureEdge * 4;

/// One layer's pixels.
Outcome<std::vector<std::uint8_t>> readLayer(const std::filesystem::path& file)
{
    const auto bytes = readFile(file);
    if (!bytes)
        return bytes.problem();
    int width = 0, height = 0, channels = 0;
    const auto* data = reinterpret_cast<const stbi_uc*>(bytes.value().data());
    stbi_uc* read = stbi_load_from_memory(data, static_cast<int>(bytes.value().size()), &width, &height, &channels, 4);
    if (!read)
        return Problem{file.string(), "", "is no PNG picture that can be read: save it as PNG again"};
    std::vector<std::uint8_t> layer;
    if (width == height && (width == kTextureEdge || width * 2 == kTextureEdge)) {
        const int step = kTextureEdge / width;
        for (int y = 0; y < kTextureEdge; ++y)
            for (int x = 0; x < kTextureEdge; ++x) {
                const stbi_uc* pixel = read + (static_cast<std::ptrdiff_t>(y / step) * width + x / step) * 4;
                layer.insert(layer.end(), pixel, pixel + 4);
            }
    }
    stbi_image_free(read);
    if (layer.empty())
        return Problem{file.string(), "",
            "is " + std::to_string(width) + " x " + std::to_string(height) + " pixels, 16 x 16 or 32 x 32 is allowed"};
    return layer;
}

/// The picture of a file, read again only where the file has changed since.
const ReadPictures::Picture& pictureOf(const std::filesystem::path& file, ReadPictures& known)
{
    std::error_code error;
    const auto written = std::filesystem::last_write_time(file, error);
    const std::uintmax_t bytes = error ? 0 : std::filesystem::file_size(file, error);
    const auto [at, isNew] = known.pictures.try_emplace(file.string());
    ReadPictures::Picture& picture = at->second;
    if (!isNew && !error && picture.written == written && picture.bytes == bytes)
        return picture;
    ++known.reads;
    auto layer = readLayer(file);
    picture = {written, bytes, layer ? layer.take() : std::vector<std::uint8_t>(), layer ? Problem{} : layer.problem()};
    return picture;
}

std::vector<std::uint8_t> evenLayer(Rgb colour)
{
    std::vector<std::uint8_t> layer(kLayerBytes, 255);
    for (std::size_t i = 0; i < kLayerBytes; i += 4) {
        layer[i] = colour.r;
        layer[i + 1] = colour.g;
        layer[i + 2] = colour.b;
    }
    return layer;
}

/// The layer whose colour is nearest.
int nearestOf(const std::vector<Rgb>& colours, Rgb wanted)
{
    const auto away = [&wanted](Rgb of) {
        const int r = of.r - wanted.r, g = of.g - wanted.g, b = of.b - wanted.b;
        return r * r + g * g + b * b;
    };
    const auto nearest
        = std::min_element(colours.begin(), colours.end(), [&away](Rgb a, Rgb b) { return away(a) < away(b); });
    return static_cast<int>(nearest - colours.begin());
}

} // namespace

TextureLayers loadTextures(const BlockSet& blocks, int max, ReadPictures* known)
{
    ReadPictures none;
    ReadPictures& read = known ? *known : none;
    TextureLayers out;
    out.pixels = evenLayer({255, 255, 255});
    std::map<std::string, int> layers; // by file, or by colour
    int shared = 0; // sides shown with the nearest layer
    std::vector<Rgb> colours{{255, 255, 255}}; // of the layers
    const auto add = [&](const std::string& key, const std::vector<std::uint8_t>& layer, Rgb colour) {
        if (out.count >= max) {
            ++shared;
            return layers[key] = nearestOf(colours, colour);
        }
        colours.push_back(colour);
        out.pixels.insert(out.pixels.end(), layer.begin(), layer.end());
        return layers[key] = out.count++;
    };
    const auto layerFor = [&](const BlockKind& kind, std::size_t part) {
        const Rgb colour = part == 0 ? kind.top : part == 1 ? kind.side : kind.bottom;
        const std::string even
            = std::to_string(colour.r) + "," + std::to_string(colour.g) + "," + std::to_string(colour.b);
        const std::string& file = kind.textures[part];
        if (!file.empty()) {
            if (const auto found = layers.find(file); found != layers.end())
                return found->second;
            const ReadPictures::Picture& picture = pictureOf(blocks.folder / file, read);
            if (!picture.layer.empty())
                return add(file, picture.layer, colour);
            out.warnings.push_back(picture.problem);
            return add(file, evenLayer(colour), colour);
        }
        const auto found = layers.find(even);
        return found != layers.end() ? found->second : add(even, evenLayer(colour), colour);
    };
    for (const BlockKind& kind : blocks.kinds)
        out.layerOf.push_back({layerFor(kind, 0), layerFor(kind, 1), layerFor(kind, 2)});
    if (shared > 0)
        out.warnings.push_back({"textures", "",
            "need " + std::to_string(out.count + shared) + " layers and this driver takes " + std::to_string(max)
                + ": the last " + std::to_string(shared) + " pictures show the nearest colour that is there"});
    return out;
}

} // namespace fell::gpu

// SPDX-License-Identifier: Apache-2.0
// Pictures and volumes from elsewhere; the PNG files here are written by other code.
#include "support/all_names.h"
#include "support/make_png.h"
#include "support/sample_worlds.h"
#include "support/temp_folder.h"
#include <fell/exchange/height_png.h>
#include <fell/exchange/nrrd_volume.h>
#include <fell/terrain/height_map.h>

#include <fstream>
#include <gtest/gtest.h>

namespace fell::import_test {
namespace {

TEST(HeightPng, HasTheValuesOfThePicture)
{
    const test::TempFolder folder;
    test::makePng(folder / "8.png", "8", 300, 20, "(x * 3 + y * 7) % 256");
    test::makePng(folder / "16.png", "16", 300, 20, "(x * 211 + y * 977) % 65536");
    for (const auto& [name, bits] : {std::pair{"8.png", 8}, {"16.png", 16}}) {
        const auto info = heightPngInfo(folder / name);
        ASSERT_TRUE(info) << sentence(info.problem());
        EXPECT_EQ(info.value().bits, bits);
        ASSERT_FALSE(importHeightPng(folder / name, folder / "out.heights"));
        const auto map = HeightMap::open(folder / "out.heights").take();
        for (int y = 0; y < 20; ++y)
            for (int x = 0; x < 300; ++x)
                ASSERT_NEAR(map->at(x, y),
                    bits == 8 ? (x * 3 + y * 7) % 256 / 255.0 : (x * 211 + y * 977) % 65536 / 65535.0, 1e-9)
                    << x << ", " << y;
    }
}

TEST(HeightPng, ForeignAndBrokenPicturesAreOneSentenceAndNoFile)
{
    const test::TempFolder folder;
    test::makePng(folder / "rgb.png", "rgb", 8, 8, "(x, y, 0)");
    EXPECT_NE(heightPngInfo(folder / "rgb.png").problem().what.find("grey of 8 or 16 bits"), std::string::npos);
    std::ofstream(folder / "no.png") << "this is no picture";
    EXPECT_NE(heightPngInfo(folder / "no.png").problem().what.find("is no PNG"), std::string::npos);
    EXPECT_FALSE(heightPngInfo(folder / "missing.png"));
    test::makePng(folder / "good.png", "8", 200, 200, "(x * y) % 256");
    const std::string bytes = test::textOf(folder / "good.png");
    for (std::size_t length = 0; length + 80 < bytes.size(); length += 37) { // the end alone holds no row
        std::ofstream(folder / "cut.png", std::ios::trunc | std::ios::binary) << bytes.substr(0, length);
        EXPECT_TRUE(importHeightPng(folder / "cut.png", folder / "out.heights")) << length;
        EXPECT_FALSE(std::filesystem::exists(folder / "out.heights"));
        EXPECT_FALSE(std::filesystem::exists(folder / "out.heights.part"));
    }
    EXPECT_TRUE(importHeightPng(folder / "good.png", folder / "out.heights", [](double) { return false; }))
        << "stopped";
    EXPECT_FALSE(std::filesystem::exists(folder / "out.heights"));
}

std::string nrrd(const std::string& fields, const std::string& data)
{
    return "NRRD0004\n# a comment\ndimension: 3\n" + fields + "\n" + data;
}

NrrdVolume good(const std::string& bytes)
{
    auto read = parseNrrd(bytes, "v.nrrd");
    EXPECT_TRUE(read) << (read ? "" : sentence(read.problem()));
    return read ? read.take() : NrrdVolume{};
}

TEST(NrrdVolume, ReadsEveryTypeInBothByteOrders)
{
    struct Case {
        const char *type, *endian;
        std::string bytes;
        double second;
    };
    const Case cases[]{{"uchar", "little", std::string("\0\xFE", 2), 254},
        {"int8", "little", std::string("\0\xFE", 2), -2},
        {"unsigned short", "little", std::string("\0\0\x02\x01", 4), 258},
        {"uint16", "big", std::string("\0\0\x02\x01", 4), 513}, {"short", "little", std::string("\0\0\xFF\xFF", 4), -1},
        {"uint32", "big", std::string("\0\0\0\0\0\0\1\0", 8), 256},
        {"int", "little", std::string("\0\0\0\0\xFE\xFF\xFF\xFF", 8), -2},
        {"float", "little", std::string("\0\0\0\0\0\0\xC0\x3F", 8), 1.5},
        {"double", "big", std::string("\0\0\0\0\0\0\0\0\x40\x04\0\0\0\0\0\0", 16), 2.5}};
    for (const Case& one : cases) {
        const NrrdVolume volume = good(
            nrrd("type: " + std::string(one.type) + "\nsizes: 2 1 1\nencoding: raw\nendian: " + one.endian + "\n",
                one.bytes));
        EXPECT_EQ(volume.at(0, 0, 0), 0) << one.type;
        EXPECT_EQ(volume.at(1, 0, 0), one.second) << one.type << " " << one.endian;
    }
}

TEST(NrrdVolume, AxesGoWhereTheHeaderSays)
{
    const std::string data("\0\1\2\3\4\5", 6); // 3 fastest, then 2, then 1
    const std::string base = "type: uint8\nsizes: 3 2 1\nencoding: raw\n";
    const NrrdVolume plain = good(nrrd(base, data));
    EXPECT_EQ(plain.size, (std::array<std::int64_t, 3>{3, 2, 1}));
    EXPECT_EQ(plain.at(2, 1, 0), 5);
    const NrrdVolume labelled = good(nrrd(base + "labels: \"z\" \"x\" \"y\"\n", data));
    EXPECT_EQ(labelled.size, (std::array<std::int64_t, 3>{2, 1, 3}));
    EXPECT_EQ(labelled.at(1, 0, 2), 5);
    EXPECT_EQ(labelled.at(0, 0, 1), 1);
    const NrrdVolume turned = good(nrrd(base + "space directions: (0,0,-2) (0.5,0,0) (0,1,0.1)\n", data));
    EXPECT_EQ(turned.size, (std::array<std::int64_t, 3>{2, 1, 3}));
    EXPECT_EQ(turned.at(0, 0, 2), 0) << "against z: the first value lies at its end";
    EXPECT_EQ(turned.at(1, 0, 0), 5);
}

TEST(NrrdVolume, ForeignAndBrokenFilesAreOneSentence)
{
    const auto said = [](const std::string& bytes) {
        const auto read = parseNrrd(bytes, "v.nrrd");
        return read ? std::string() : sentence(read.problem());
    };
    const std::string data(6, '\1');
    EXPECT_NE(said("PNG").find("is no NRRD"), std::string::npos);
    EXPECT_NE(said("NRRD0004\ntype: uint8\n").find("does not end"), std::string::npos);
    EXPECT_NE(said(nrrd("type: block\nsizes: 3 2 1\nencoding: raw\n", data)).find("type"), std::string::npos);
    EXPECT_NE(said(nrrd("type: uint8\nsizes: 3 2\nencoding: raw\n", data)).find("sizes"), std::string::npos);
    EXPECT_NE(said(nrrd("type: uint8\nsizes: 3 2 2000\nencoding: raw\n", data)).find("sizes"), std::string::npos);
    EXPECT_NE(said(nrrd("type: uint8\nsizes: 3 2 1\nencoding: hex\n", data)).find("encoding"), std::string::npos);
    EXPECT_NE(said(nrrd("type: uint8\nsizes: 3 2 1\nencoding: gzip\n", data)).find("gzip"), std::string::npos);
    EXPECT_NE(said(nrrd("type: uint8\nsizes: 3 3 1\nencoding: raw\n", data)).find("ends early"), std::string::npos);
    EXPECT_NE(said(nrrd("type: uint8\nsizes: 3 2 1\nencoding: raw\ndata file: other.raw\n", data)).find("elsewhere"),
        std::string::npos);
    EXPECT_NE(said(nrrd("type: double\nsizes: 1024 1024 1024\nencoding: gzip\n", data)).find("MiB"), std::string::npos);
}

TEST(NrrdVolume, BecomesBlocksByThresholdByTableAndByWhatItSays)
{
    const BlockSet blocks = test::testBlocks();
    const NrrdVolume volume = good(nrrd("type: uint8\nsizes: 40 2 3\nencoding: raw\n", [] {
        std::string data;
        for (int i = 0; i < 240; ++i)
            data += static_cast<char>(i % 7);
        return data;
    }()));
    const auto count = [&](const VolumeRule& rule) {
        std::map<Material, int> out;
        EXPECT_TRUE(eachChunkOf(volume, rule, {-3, 31, 5}, [&](const std::vector<StoredChunk>& layer, double) {
            for (const StoredChunk& chunk : layer)
                for (const KeptVoxel& one : chunk.changed) {
                    ++out[one.material];
                    const int i = one.voxel;
                    const VoxelPos at = originOf(chunk.chunk, kKeptEdge)
                        + VoxelPos{i % kKeptEdge, i / kKeptEdge / kKeptEdge, i / kKeptEdge % kKeptEdge};
                    const std::int64_t index = ((at.z - 5) * 2 + at.y - 31) * 40 + at.x + 3;
                    EXPECT_GE(index, 0);
                    EXPECT_LT(index, 240);
                    if (!rule.above) {
                        EXPECT_EQ(rule.ids.at(index % 7), one.material);
                    }
                }
            return true;
        }));
        return out;
    };
    VolumeRule threshold;
    threshold.above = 4;
    threshold.material = 2;
    EXPECT_EQ(count(threshold), (std::map<Material, int>{{2, 68}})) << "values 5 and 6 of 240 from 0 to 6";
    const auto own = ruleOf(volume, blocks);
    EXPECT_EQ(count(own.value()).at(3), 34) << "each number that is a block type";
    NrrdVolume named = volume;
    named.notes["material 6"] = "turf opacity 15";
    EXPECT_EQ(
        ruleOf(named, blocks).value().ids, (std::map<std::int64_t, Material>{{6, *findMaterial(blocks, "turf")}}));
    named.notes["material 5"] = "unobtainable opacity 15";
    EXPECT_FALSE(ruleOf(named, blocks));
    EXPECT_FALSE(eachChunkOf(volume, threshold, {}, [](const auto&, double) { return false; }));
}

} // namespace
} // namespace fell::import_test

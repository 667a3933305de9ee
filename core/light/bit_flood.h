// SPDX-License-Identifier: Apache-2.0
// Floods light through a region 64 voxels a word, a level at a time.
#pragma once

#include <fell/light/bit_region.h>
#include <fell/light/transmission.h>

#include <array>
#include <climits>
#include <cstdint>
#include <optional>
#include <span>
#include <vector>

namespace fell::light {

/// A light that starts in the region.
struct LightSource {
    int x = 0, y = 0, z = 0;
    int level = 0; // 1 to 15
};

/// A chunk that lies in the region, or partly.
struct RegionChunk {
    const Transmission* passes = nullptr;
    RegionPlace place;
};

/// The levels of some voxels of a region from which light comes into the rest: a word of voxels for each level.
struct FloodBorder {
    struct Word {
        std::ptrdiff_t at; // in a plane
        std::uint64_t bits;
        int y;
        bool operator==(const Word&) const = default;
    };
    std::array<std::vector<Word>, kMaxLight + 1> words; // by level

    void clear()
    {
        for (auto& level : words)
            level.clear();
    }
    /// Notes voxels of one row by the four digits of their levels.
    void add(int y, std::ptrdiff_t at, const std::array<std::uint64_t, 4>& digits);
    /// By how many levels this may be dimmer than the other: what the brightest of both say. Nothing if none of either
    /// is lit.
    [[nodiscard]] std::optional<int> offsetFrom(const FloodBorder& brighter) const;
    /// Is it dimmer by just that in every voxel, dark where less is left than that? Then so is what it floods. Both
    /// were read in the same order.
    [[nodiscard]] bool isOffsetBy(int by, const FloodBorder& brighter) const;
};

/// What a flood starts from.
struct FloodStart {
    std::vector<LightSource> lamps; // in any order; reordered
    const BitPlane* sky = nullptr; // voxels that have full sky light, of the same region; null: none
    const FloodBorder* border = nullptr; // levels next to a restricted flood; null: none
};

class BitFlood;

/// What a flood found: to be read before its BitFlood is used again, which is asserted.
class Flooded {
public:
    /// Has the flood come to a tinted voxel, or next to one? If not, it would have gone the same way in every colour.
    /// Asked with the chunks that have any.
    [[nodiscard]] bool touches(std::span<const RegionChunk> tinted) const;
    /// Takes `by` levels from every level, to 0 at least: what a flood from lamps gives that are all so much dimmer.
    void dim(int by);
    /// The levels, written over the part of the chunk's levels that lies in the region.
    void copyOut(ChannelLevels& levels, int edge, RegionPlace place) const;
    /// The levels of the box of `size` voxels whose lowest is (first, first, first), as rows of four digits: each digit
    /// a run of size / 64 words, rounded up, with bits beyond the box off; rows along z, then y.
    void copyBox(int first, int size, std::vector<std::uint64_t>& digits) const;
    /// The chunk's levels where they are higher, else those of the flood. False if it found none there.
    bool raiseTo(ChannelLevels& levels, int edge, RegionPlace place) const;

private:
    friend class BitFlood;
    friend class RestrictedFlood;
    Flooded(BitFlood& flood, std::uint64_t number)
        : m_flood(&flood)
        , m_number(number)
    {
    }
    [[nodiscard]] BitFlood& flood() const; // asserts that it is still the last
    BitFlood* m_flood;
    std::uint64_t m_number;
};

/// The planes and the loops. What uses it goes through a RegionFlood or a RestrictedFlood: their constructors do what
/// must come first. A class because its planes are large and used again and again, and some must be empty between two
/// floods.
///
/// Memory  17 planes and more; see BitPlane. One thread at a time.
/// Cost    a flood: levels x groups of words that light reaches, 512 voxels a group.
/// Source  breadth-first search over bits, as is common for grids; the level-by-level order makes each voxel's first
///         light its highest.
class BitFlood {
private:
    friend class Flooded;
    friend class RegionFlood;
    friend class RestrictedFlood;
    using Groups = std::vector<std::uint32_t>; // a bit a group of one layer, by layer
    struct Absorbing { // voxels that take more than one level
        int attenuation;
        BitPlane where;
        int low, high; // layers that have any
        Groups groups; // that have any; empty until they are asked for
    };
    struct Waiting {
        bool any = false;
        BitPlane where;
        Groups groups;
    };
    struct Layers {
        int low = INT_MAX, high = -1;
        void add(int y)
        {
            low = low < y ? low : y;
            high = high > y ? high : y;
        }
    };

    void begin(const FloodRegion& region);
    void setTransmission(std::span<const RegionChunk> chunks, LightColour colour);
    void addTransmission(const RegionChunk& chunk, LightColour colour);
    Flooded flood(FloodStart& start);
    template <bool kManyWords> void spreadClear(int level);
    void findGroups(Absorbing& absorbing) const;
    void spreadAbsorbing(int level);
    void startSky(const BitPlane& sky);
    void startLamps(
        int level, std::vector<LightSource>::const_iterator& lamp, std::vector<LightSource>::const_iterator end);
    void startBorder(int level, const FloodBorder& border);
    void endWaiting(int level);
    void light(int level, std::ptrdiff_t at, std::uint64_t bits);
    void mark(int y, std::ptrdiff_t at);
    void finishLevel();
    void forget();
    [[nodiscard]] DigitPlanes digits() const
    {
        return {m_out[0].data(), m_out[1].data(), m_out[2].data(), m_out[3].data()};
    }

    FloodRegion m_region;
    BitPlane m_clear, m_tinted, m_reached, m_fresh, m_next; // clear: takes one level
    std::array<BitPlane, 4> m_out; // the digits of the levels
    std::vector<Absorbing> m_absorbing;
    std::size_t m_absorbingCount = 0;
    std::array<Waiting, kMaxLight + 1> m_waiting;
    // Which groups the last level reached, this one reaches, and any level of this flood has reached.
    Groups m_freshGroups, m_nextGroups, m_touched;
    Groups m_openGroups; // groups in which anything can be lit at all
    Layers m_freshLayers, m_nextLayers;
    bool m_anyFresh = false, m_anyNext = false;
    bool m_isTold = false; // what passes in this region
    std::uint64_t m_number = 0; // of the flood that the planes hold
};

/// Floods of one region, in one colour after another. Chunks that are left out are dark.
/// Cost  a copy of the chunks' bits for each colour.
class RegionFlood {
public:
    /// All must outlive it.
    RegionFlood(BitFlood& flood, const FloodRegion& region, std::span<const RegionChunk> chunks, LightColour colour);

    /// From now on light passes as this colour says.
    void setColour(LightColour colour);
    [[nodiscard]] LightColour colour() const { return m_colour; }
    Flooded flood(FloodStart& start) { return m_flood.flood(start); }

private:
    BitFlood& m_flood;
    std::span<const RegionChunk> m_chunks;
    LightColour m_colour;
};

} // namespace fell::light

// SPDX-License-Identifier: Apache-2.0
// A box of voxels in which light is flooded 64 voxels a word, a level at a time.
#pragma once

#include "light/chunk_light.h"

#include <algorithm>
#include <climits>
#include <optional>
#include <span>

namespace fell {

/// One bit for each voxel of the window.
///
/// Layout  x runs along the bits of `words` words, then z over rows, then y over layers; word 0 is that of row (0, 0).
/// A
///         bit of each row and a row of each layer stay empty beyond the box, and a layer before and after it: so the
///         neighbours of a run of words are the same run, shifted. A layer is a whole number of groups.
struct WindowShape {
    int x = 0, y = 0, z = 0; // voxels
    std::ptrdiff_t words = 0; // a row
    std::ptrdiff_t layer = 0; // words a layer

    [[nodiscard]] std::ptrdiff_t at(int py, int pz) const { return py * layer + pz * words; }
    [[nodiscard]] std::size_t total() const
    {
        return static_cast<std::size_t>(layer) * static_cast<std::size_t>(y + 2);
    }
};

/// What is looked at together: two wide registers. At most 32 make a layer.
constexpr std::ptrdiff_t kWindowGroup = 8; // words

/// Asserts: 1 <= x, z <= 126, y >= 1.
WindowShape windowShape(int x, int y, int z);

/// Where a chunk's lowest voxel lies in a window; may lie outside.
struct WindowPlace {
    int x = 0, y = 0, z = 0;
};

/// A light that starts in the window.
struct WindowSource {
    int x = 0, y = 0, z = 0;
    int level = 0; // 1 to 15
};

/// A lamp in the window.
struct WindowLamp {
    int x = 0, y = 0, z = 0;
    Material material = kOpen;
};

/// Words of a window with the empty layers round it.
class WindowBits {
public:
    void reset(const WindowShape& shape); // all off
    void fit(const WindowShape& shape); // bits that are off already stay so
    [[nodiscard]] std::uint64_t* data() { return m_words.data() + m_layer; }
    [[nodiscard]] const std::uint64_t* data() const { return m_words.data() + m_layer; }

private:
    std::vector<std::uint64_t> m_words;
    std::ptrdiff_t m_layer = 0;
};

/// A class because its planes are large and used again and again, and some must be empty between two floods.
///
/// Use     begin; addPasses for every chunk that lies in it; flood; copyOut or raiseTo. Another colour: clearPasses and
///         addPasses again.
/// Cost    begin and addPasses: a copy of the bits. flood: levels x groups of words that light reaches, 512 voxels a
///         group.
/// Source  breadth-first search over bits, as is common for grids; the level-by-level order makes each voxel's first
///         light its highest.
class LightWindow {
public:
    void begin(const WindowShape& shape);
    [[nodiscard]] const WindowShape& shape() const { return m_shape; }

    /// Light passes through the part of the chunk that lies in the window as `colour` says. Chunks that are left out
    /// are dark.
    void addPasses(const LightPasses& passes, WindowPlace place, LightColour colour);
    /// Has the last flood come to a tinted voxel, or beside one? If not, it would have gone the same way in every
    /// colour. Asked with the chunks that have any.
    struct TintedChunk {
        const LightPasses* passes;
        WindowPlace place;
    };
    [[nodiscard]] bool touches(std::span<const TintedChunk> tinted);
    /// Forgets what addPasses has told.
    void clearPasses();
    /// From now on light only passes where it can come from the given voxels at the given levels: what lies beyond
    /// cannot change if only they do. `lamps` are all that stand in the window, solid ones too. Comes after addPasses;
    /// asserts that the window is narrower than 64 voxels.
    void keepTo(std::vector<WindowSource> from, const std::vector<WindowLamp>& lamps);
    /// Which voxels of row (y, z) those are.
    [[nodiscard]] std::uint64_t keptAt(int y, int z) const
    {
        return m_inside[static_cast<std::size_t>(m_shape.at(y, z))];
    }
    /// Cuts passes to that again, for another colour.
    void cutPasses();

    /// Bits of voxels that have full sky light. Filled by the caller, then given to flood.
    [[nodiscard]] WindowBits& sky() { return m_sky; }
    struct Start {
        std::vector<WindowSource> lamps; // in any order; reordered
        bool sky = false; // what sky() holds
        bool border = false; // what copyIn has read of the voxels round those that keepTo keeps
    };
    void flood(Start& start);

    /// Takes `by` levels from every level that flood found, to 0 at least: what a flood from lamps gives that are all
    /// so much dimmer.
    void dim(int by);

    /// The levels that flood found, written over the part of the chunk's levels that lies in the window.
    void copyOut(ChannelLevels& levels, int edge, WindowPlace place) const;
    /// The levels of the box of `size` voxels whose lowest is (first, first, first), as rows of four digits: each digit
    /// a run of size / 64 words, rounded up, with bits beyond the box off; rows along z, then y.
    void copyBox(int first, int size, std::vector<std::uint64_t>& digits) const;
    /// The same, for the voxels that keepTo keeps.
    void copyInsideOut(ChannelLevels& levels, int edge, WindowPlace place) const;
    /// The chunk's levels where they are higher, else those that flood found. False if it found none there.
    bool raiseTo(ChannelLevels& levels, int edge, WindowPlace place) const;
    /// Reads the chunk's levels round the voxels that keepTo keeps; clearBorder comes first.
    void copyIn(const ChannelLevels& levels, int edge, WindowPlace place);
    void clearBorder();
    /// Remembers what copyIn has read, for isDimmer; clears it.
    void keepBorder();
    /// By how many levels what copyIn has read may be dimmer than what was kept: what the first voxel says. Nothing if
    /// none of either is lit.
    [[nodiscard]] std::optional<int> borderDimmer() const;
    /// Is it dimmer by just that in every voxel, dark where less is left than that? Then so is what it floods.
    [[nodiscard]] bool isBorderDimmer(int by) const;

private:
    using Groups = std::vector<std::uint32_t>; // a bit a group of one layer, by layer
    struct Dear {
        int takes;
        WindowBits where;
        int low, high; // layers that have any
        Groups groups; // that have any; empty until they are asked for
    };
    struct Waiting {
        bool any = false;
        WindowBits where;
        Groups groups;
    };
    struct BorderWord {
        std::ptrdiff_t at;
        std::uint64_t bits;
        int y;
        bool operator==(const BorderWord&) const = default;
    };
    template <bool kManyWords> void spreadCheap(int level);
    void findGroups(Dear& dear) const;
    void spreadDear(int level);
    void startSky();
    void startLamps(
        int level, std::vector<WindowSource>::const_iterator& lamp, std::vector<WindowSource>::const_iterator end);
    void noteBorder(int y, std::ptrdiff_t at, const std::array<std::uint64_t, 4>& digits);
    void startBorder(int level);
    void endWaiting(int level);
    void light(int level, std::ptrdiff_t at, std::uint64_t bits);
    template <typename Visit>
    void eachRow(const std::uint64_t* plane, int edge, WindowPlace place, const Visit& visit) const;
    void mark(int y, std::ptrdiff_t at);
    void finishLevel();
    void forget();

    WindowShape m_shape;
    WindowBits m_cheap, m_tinted, m_sky, m_reached, m_fresh, m_next;
    std::array<WindowBits, 4> m_out; // the digits of the levels
    std::vector<std::uint64_t> m_inside, m_edge; // what keepTo keeps, and the voxels beside it
    std::vector<Dear> m_dear;
    std::size_t m_dearCount = 0;
    std::array<Waiting, kMostLight + 1> m_waiting;
    std::array<std::vector<BorderWord>, kMostLight + 1> m_borderWords, m_keptWords; // by level
    // Which groups the last level reached, this one reaches, and any level of this flood has reached.
    struct Layers {
        int low = INT_MAX, high = -1;
        void add(int y)
        {
            low = std::min(low, y);
            high = std::max(high, y);
        }
    };
    Groups m_freshGroups, m_nextGroups, m_touched;
    Groups m_keptGroups; // groups in which anything can be lit at all
    Layers m_freshLayers, m_nextLayers;
    bool m_anyFresh = false, m_anyNext = false;
};

} // namespace fell

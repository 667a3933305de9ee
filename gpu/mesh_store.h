// SPDX-License-Identifier: Apache-2.0
// Where in which buffer a chunk's mesh lies. Plain bookkeeping, without OpenGL.
#pragma once

#include <fell/namespaces.h>

#include <cstddef>
#include <cstdint>
#include <optional>
#include <vector>

namespace fell::gpu {

/// A piece of a slab. Unit: elements, whatever the slabs hold. It begins with a page and has all of its pages.
struct StorePiece {
    std::uint32_t slab = 0, first = 0, count = 0;
    bool operator==(const StorePiece&) const = default;
};

/// How well a store is filled. Unit: pages.
struct StoreFill {
    std::uint32_t slabs = 0;
    std::uint64_t pages = 0, used = 0, longestFree = 0;
    /// Of the free pages, the share that the longest run does not have: 0 where all lie together.
    [[nodiscard]] double fragmentation() const
    {
        return pages == used ? 0 : 1 - static_cast<double>(longestFree) / static_cast<double>(pages - used);
    }
};

/// An arena of slabs, each cut into fixed pages that bit words keep: a set bit is a page in use. A piece is a run of
/// pages, first fit; neighbouring free pages are one run again the moment they are given back.
///
/// A class because the words and the pieces handed out must agree.
/// Cost    take: one look at each word until it fits, 64 pages a word. release: the words of the piece.
class PieceStore {
public:
    /// It grows by slabs of `slabCount` elements in pages of `pageCount`; a larger request gets a separate slab.
    /// slabCount 0: every request is a slab. Asserts pageCount > 0.
    explicit PieceStore(std::uint32_t slabCount, std::uint32_t pageCount = 1);

    struct Taken {
        StorePiece piece;
        std::optional<std::uint32_t> newSlab; // a slab of this number of elements is new, and piece.slab is its number
    };
    /// Asserts count > 0.
    Taken take(std::uint32_t count);
    /// Adds an empty slab ahead of need and gives its number; as many slabs as were added so stay when they are empty.
    /// Asserts that this is no store of single slabs.
    std::uint32_t addAhead();
    /// Gives a piece back. True if its slab is now wholly free and not kept: it is gone, its number is used again
    /// later. Asserts that the piece is held.
    bool release(const StorePiece& piece);

    [[nodiscard]] StoreFill fill() const;
    [[nodiscard]] std::uint32_t pageCount() const { return m_pageCount; } // elements
    /// A slab's pages, 0 for a number that is not used now; and whether one is in use.
    [[nodiscard]] std::size_t slabs() const { return m_slabs.size(); }
    [[nodiscard]] std::uint32_t pagesOf(std::size_t slab) const { return m_slabs[slab].pages; }

private:
    struct Slab {
        std::uint32_t pages = 0; // 0: there is no such slab now
        std::uint32_t used = 0;
        std::vector<std::uint64_t> words; // bits beyond the last page are set
    };
    [[nodiscard]] static std::optional<std::uint32_t> findRun(const Slab& slab, std::uint32_t pages);
    static void mark(Slab& slab, std::uint32_t first, std::uint32_t pages, bool used);
    std::uint32_t addSlab(std::uint32_t atLeast);

    std::uint32_t m_slabPages, m_pageCount, m_kept = 0, m_held = 0; // the last two: slabs
    std::vector<Slab> m_slabs;
};

} // namespace fell::gpu

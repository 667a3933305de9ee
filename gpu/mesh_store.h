// SPDX-License-Identifier: Apache-2.0
// Where in which buffer a chunk's mesh lies. Plain bookkeeping, without OpenGL.
#pragma once

#include <cstddef>
#include <cstdint>
#include <map>
#include <optional>
#include <vector>

namespace fell {

/// A piece of a page. Unit: elements, whatever the pages hold.
struct StorePiece {
    std::uint32_t page = 0, first = 0, count = 0;
    bool operator==(const StorePiece&) const = default;
};

/// Hands out pieces of pages, first fit; neighbouring free pieces grow together again.
/// A class because its free pieces never overlap and together with those handed out make up every page.
class PieceStore {
public:
    /// Pages of `pageCount` elements; a larger request gets a page of its own. 0: every request does.
    explicit PieceStore(std::uint32_t pageCount)
        : m_pageCount(pageCount)
    {
    }

    struct Taken {
        StorePiece piece;
        std::optional<std::uint32_t> newPage; // a page of so many elements is new, and piece.page is its number
    };
    /// Asserts count > 0. Cost: O(free pieces).
    Taken take(std::uint32_t count);
    /// Gives a piece back. True if its page is now wholly free: the page is gone, its number is used again later.
    bool giveBack(const StorePiece& piece);

private:
    struct Page {
        std::uint32_t count = 0; // 0: there is no such page now
        std::map<std::uint32_t, std::uint32_t> free; // first -> count
    };
    std::uint32_t m_pageCount;
    std::vector<Page> m_pages;
};

} // namespace fell

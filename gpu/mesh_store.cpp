// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/mesh_store.h>

#include <algorithm>
#include <bit>
#include <cassert>

namespace fell::gpu {
namespace {

constexpr std::uint32_t kBits = 64;

/// Bits `first` to `first` + `count` - 1 of a word; count 1 to 64.
std::uint64_t bitsAt(std::uint32_t first, std::uint32_t count)
{
    return (~std::uint64_t{0} >> (kBits - count)) << first;
}

/// Calls visit(first, pages) for each run of free pages until it returns true.
template <typename Visit> void eachFreeRun(const std::vector<std::uint64_t>& words, const Visit& visit)
{
    std::uint32_t first = 0, length = 0; // of the run that goes on
    for (std::uint32_t w = 0; w < words.size(); ++w) {
        std::uint32_t bit = 0;
        while (bit < kBits) {
            const std::uint64_t rest = words[w] >> bit;
            const auto free = std::min<std::uint32_t>(static_cast<std::uint32_t>(std::countr_zero(rest)), kBits - bit);
            if (length == 0)
                first = w * kBits + bit;
            length += free;
            bit += free;
            if (bit == kBits)
                break; // it may go on in the next word
            if (length > 0 && visit(first, length))
                return;
            length = 0;
            bit += static_cast<std::uint32_t>(std::countr_one(words[w] >> bit));
        }
    }
    if (length > 0)
        visit(first, length);
}

} // namespace

PieceStore::PieceStore(std::uint32_t slabCount, std::uint32_t pageCount)
    : m_slabPages(slabCount / std::max(1u, pageCount))
    , m_pageCount(pageCount)
{
    assert(pageCount > 0);
}

std::optional<std::uint32_t> PieceStore::findRun(const Slab& slab, std::uint32_t pages)
{
    std::optional<std::uint32_t> found;
    if (slab.pages - slab.used >= pages)
        eachFreeRun(slab.words, [&](std::uint32_t first, std::uint32_t length) {
            if (length >= pages)
                found = first;
            return found.has_value();
        });
    return found;
}

void PieceStore::mark(Slab& slab, std::uint32_t first, std::uint32_t pages, bool used)
{
    slab.used = used ? slab.used + pages : slab.used - pages;
    while (pages > 0) {
        const std::uint32_t bit = first % kBits, count = std::min(pages, kBits - bit);
        std::uint64_t& word = slab.words[first / kBits];
        const std::uint64_t bits = bitsAt(bit, count);
        assert((word & bits) == (used ? 0 : bits));
        word ^= bits;
        first += count;
        pages -= count;
    }
}

std::uint32_t PieceStore::addSlab(std::uint32_t atLeast)
{
    const auto gone = std::find_if(m_slabs.begin(), m_slabs.end(), [](const Slab& slab) { return slab.pages == 0; });
    const auto number = static_cast<std::uint32_t>(gone - m_slabs.begin());
    if (gone == m_slabs.end())
        m_slabs.emplace_back();
    ++m_held;
    Slab& slab = m_slabs[number];
    slab.pages = std::max(atLeast, m_slabPages);
    slab.words.assign((slab.pages + kBits - 1) / kBits, 0);
    if (const std::uint32_t last = slab.pages % kBits; last != 0)
        slab.words.back() = ~bitsAt(0, last);
    return number;
}

std::uint32_t PieceStore::addAhead()
{
    assert(m_slabPages > 0);
    ++m_kept;
    return addSlab(m_slabPages);
}

PieceStore::Taken PieceStore::take(std::uint32_t count)
{
    assert(count > 0);
    const std::uint32_t pages = (count + m_pageCount - 1) / m_pageCount;
    for (std::uint32_t s = 0; s < m_slabs.size(); ++s)
        if (const auto first = findRun(m_slabs[s], pages)) {
            mark(m_slabs[s], *first, pages, true);
            return {{s, *first * m_pageCount, count}, std::nullopt};
        }
    const std::uint32_t slab = addSlab(pages);
    mark(m_slabs[slab], 0, pages, true);
    return {{slab, 0, count}, m_slabs[slab].pages * m_pageCount};
}

bool PieceStore::release(const StorePiece& piece)
{
    Slab& slab = m_slabs[piece.slab];
    mark(slab, piece.first / m_pageCount, (piece.count + m_pageCount - 1) / m_pageCount, false);
    if (slab.used > 0 || (slab.pages == m_slabPages && m_held <= m_kept))
        return false;
    --m_held;
    slab = {};
    return true;
}

StoreFill PieceStore::fill() const
{
    StoreFill fill;
    for (const Slab& slab : m_slabs) {
        fill.slabs += slab.pages > 0;
        fill.pages += slab.pages;
        fill.used += slab.used;
        eachFreeRun(slab.words, [&](std::uint32_t, std::uint32_t length) {
            fill.longestFree = std::max<std::uint64_t>(fill.longestFree, length);
            return false;
        });
    }
    return fill;
}

} // namespace fell::gpu

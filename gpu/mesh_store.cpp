// SPDX-License-Identifier: Apache-2.0
#include "gpu/mesh_store.h"

#include <algorithm>
#include <cassert>
#include <iterator>

namespace fell {

PieceStore::Taken PieceStore::take(std::uint32_t count)
{
    assert(count > 0);
    for (std::uint32_t p = 0; p < m_pages.size(); ++p)
        for (auto free = m_pages[p].free.begin(); free != m_pages[p].free.end(); ++free) {
            if (free->second < count)
                continue;
            const auto [first, room] = *free;
            m_pages[p].free.erase(free);
            if (room > count)
                m_pages[p].free.emplace(first + count, room - count);
            return {{p, first, count}, std::nullopt};
        }
    const auto gone = std::find_if(m_pages.begin(), m_pages.end(), [](const Page& page) { return page.count == 0; });
    const auto number = static_cast<std::uint32_t>(gone - m_pages.begin());
    if (gone == m_pages.end())
        m_pages.emplace_back();
    Page& page = m_pages[number];
    page.count = std::max(count, m_pageCount);
    if (page.count > count)
        page.free.emplace(count, page.count - count);
    return {{number, 0, count}, page.count};
}

bool PieceStore::giveBack(const StorePiece& piece)
{
    Page& page = m_pages[piece.page];
    auto [at, isNew] = page.free.emplace(piece.first, piece.count);
    assert(isNew);
    if (const auto next = std::next(at); next != page.free.end() && at->first + at->second == next->first) {
        at->second += next->second;
        page.free.erase(next);
    }
    if (at != page.free.begin())
        if (const auto before = std::prev(at); before->first + before->second == at->first) {
            before->second += at->second;
            page.free.erase(at);
        }
    if (page.free.size() != 1 || page.free.begin()->second != page.count)
        return false;
    page = {};
    return true;
}

} // namespace fell

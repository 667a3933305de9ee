// SPDX-License-Identifier: Apache-2.0
#include <fell/light/sky_height_map.h>

#include <algorithm>
#include <bit>

namespace fell::light {

SkyHeightMap skyFloor(int edge, std::int64_t all)
{
    return {std::vector<std::int64_t>(static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge), all), all, all};
}

void summarize(SkyHeightMap& floor)
{
    const auto [low, high] = std::minmax_element(floor.from.begin(), floor.from.end());
    floor.lowest = *low;
    floor.highest = *high;
}

bool carveThrough(SkyHeightMap& floor, const Transmission& chunk, std::int64_t y0)
{
    bool goesOn = false;
    withEdge(chunk.edge, [&](auto e) {
        constexpr int kEdge = decltype(e)::value;
        const auto freeAt = [&chunk](int y, int z) {
            return chunk.kind == Transmission::Kind::Mixed ? rowOf<kEdge>(chunk.open.data(), y, z)
                : chunk.kind == Transmission::Kind::Open   ? ~std::uint64_t{0}
                                                           : 0;
        };
        for (int z = 0; z < kEdge; ++z) {
            std::int64_t* from = floor.from.data() + z * kEdge;
            std::uint64_t open = 0; // columns of this row that go on
            for (int x = 0; x < kEdge; ++x)
                open |= std::uint64_t{from[x] == y0 + kEdge} << x;
            for (int y = kEdge - 1; y >= 0 && open != 0; --y) {
                const std::uint64_t free = freeAt(y, z);
                for (std::uint64_t closed = open & ~free; closed != 0; closed &= closed - 1)
                    from[std::countr_zero(closed)] = y0 + y + 1;
                open &= free;
            }
            goesOn |= open != 0;
            for (; open != 0; open &= open - 1)
                from[std::countr_zero(open)] = y0;
        }
    });
    summarize(floor);
    return goesOn;
}

} // namespace fell::light

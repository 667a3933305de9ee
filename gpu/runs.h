// SPDX-License-Identifier: Apache-2.0
// Runs of elements of one buffer that grows. Plain bookkeeping, without OpenGL.
#pragma once

#include <fell/namespaces.h>

#include <cstdint>
#include <map>
#include <optional>

namespace fell::gpu {

/// Unit: elements.
struct ElementRun {
    std::uint32_t first = 0, count = 0;
    bool operator==(const ElementRun&) const = default;
};

/// First fit; neighbouring free runs are one again the moment they are given back.
/// A class because what is free and what was handed out must agree.
/// Cost    take: a look at each free run until one fits. release: logarithmic in the free runs.
class Runs {
public:
    /// Nothing where no free run is as long. Asserts count > 0.
    std::optional<ElementRun> take(std::uint32_t count);
    /// Asserts that no part of the run is free; of no elements: does nothing.
    void release(const ElementRun& run);
    /// To `size` elements; the new ones are free. Asserts that it is no less than before.
    void grow(std::uint32_t size);

    [[nodiscard]] std::uint32_t size() const { return m_size; }
    [[nodiscard]] std::uint32_t used() const { return m_used; }

private:
    std::map<std::uint32_t, std::uint32_t> m_free; // count by first
    std::uint32_t m_size = 0, m_used = 0;
};

} // namespace fell::gpu

// SPDX-License-Identifier: Apache-2.0
// The buffer of all chunks' cells of light. Private to gpu/: includes OpenGL.
#pragma once

#include <fell/gpu/resources.h>
#include <fell/gpu/runs.h>

#include <epoxy/gl.h>

#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <optional>

namespace fell::gpu {

/// One buffer, read as a texture, that grows by doubling: a draw then finds the cells of any chunk in it, whatever slab
/// its quads lie in. A class because buffer, texture and runs must agree; all calls need their context.
class CellStore {
public:
    explicit CellStore(ResourceTable& table)
        : m_table(table)
    {
    }

    /// Forgets everything. `wordsACell`: 2 or 4; 0: there will be none.
    /// `max`: texels that the driver reads of one buffer, a cell each.
    void clear(std::size_t wordsACell, std::int64_t max = INT64_MAX)
    {
        m_max = static_cast<std::uint64_t>(max);
        m_buffer = {};
        m_texture = {};
        m_runs = {};
        m_cellBytes = wordsACell * sizeof(std::uint32_t);
        if (wordsACell > 0)
            grow(static_cast<std::uint32_t>(std::min<std::uint64_t>(kFirst, m_max)));
    }
    /// Asserts count > 0. An empty run where the driver reads no more: what it would light is dark.
    ElementRun put(const std::uint32_t* words, std::uint32_t count)
    {
        std::optional<ElementRun> run = m_runs.take(count);
        while (!run) { // what is free at the end does not fit it; as much again does, or twice that
            if (m_runs.size() >= m_max)
                return {};
            grow(static_cast<std::uint32_t>(std::min<std::uint64_t>(std::uint64_t{2} * m_runs.size(), m_max)));
            run = m_runs.take(count);
        }
        glNamedBufferSubData(m_buffer.id(), static_cast<GLintptr>(run->first * m_cellBytes),
            static_cast<GLsizeiptr>(count * m_cellBytes), words);
        return *run;
    }
    void release(const ElementRun& run)
    {
        if (run.count > 0)
            m_runs.release(run);
    }
    [[nodiscard]] bool isFull() const { return m_runs.size() >= m_max; }

    [[nodiscard]] GLuint texture() const { return m_texture.id(); }
    [[nodiscard]] std::size_t cellBytes() const { return m_cellBytes; }
    [[nodiscard]] std::size_t bytes() const { return m_runs.size() * m_cellBytes; }
    [[nodiscard]] std::size_t usedBytes() const { return m_runs.used() * m_cellBytes; }

private:
    static constexpr std::uint32_t kFirst = 1u << 17; // cells: a megabyte of those of two words

    void grow(std::uint32_t cells)
    {
        Buffer larger(m_table, "cells of light");
        larger.reserve(cells * m_cellBytes);
        if (m_buffer)
            glCopyNamedBufferSubData(m_buffer.id(), larger.id(), 0, 0, static_cast<GLsizeiptr>(bytes()));
        m_buffer = std::move(larger);
        m_runs.grow(cells);
        if (!m_texture)
            m_texture = Texture(m_table, "cells of light", GL_TEXTURE_BUFFER);
        glTextureBuffer(m_texture.id(), m_cellBytes == 8 ? GL_RG32UI : GL_RGBA32UI, m_buffer.id());
    }

    ResourceTable& m_table;
    Buffer m_buffer;
    Texture m_texture;
    std::size_t m_cellBytes = 0;
    std::uint64_t m_max = UINT64_MAX; // cells
    Runs m_runs;
};

} // namespace fell::gpu

// SPDX-License-Identifier: Apache-2.0
// The buffers of a PieceStore's pages. Private to gpu/: includes OpenGL.
#pragma once

#include "gpu/mesh_store.h"

#include <epoxy/gl.h>

#include <algorithm>
#include <vector>

namespace fell {

/// Buffers for the pieces of a store. A class because the two must agree.
class GlStore {
public:
    GlStore() = default;
    ~GlStore() { clear(0, 1); }
    GlStore(const GlStore&) = delete;
    GlStore& operator=(const GlStore&) = delete;

    /// Forgets everything. Pages of `pageBytes`; 0 gives each piece a buffer of its own.
    void clear(std::uint32_t pageBytes, std::size_t elementBytes)
    {
        for (const GLuint buffer : m_buffers)
            glDeleteBuffers(1, &buffer);
        m_buffers.clear();
        m_sizes.clear();
        m_bytes = 0;
        m_elementBytes = elementBytes;
        m_pieces = PieceStore(static_cast<std::uint32_t>(pageBytes / elementBytes));
    }

    StorePiece put(const void* data, std::uint32_t count)
    {
        const auto [piece, newPage] = m_pieces.take(count);
        if (newPage) {
            m_buffers.resize(std::max<std::size_t>(m_buffers.size(), piece.page + 1u));
            m_sizes.resize(m_buffers.size());
            m_sizes[piece.page] = *newPage * m_elementBytes;
            m_bytes += m_sizes[piece.page];
            glCreateBuffers(1, &m_buffers[piece.page]);
            glNamedBufferStorage(
                m_buffers[piece.page], static_cast<GLsizeiptr>(m_sizes[piece.page]), nullptr, GL_DYNAMIC_STORAGE_BIT);
        }
        glNamedBufferSubData(m_buffers[piece.page], static_cast<GLintptr>(piece.first * m_elementBytes),
            static_cast<GLsizeiptr>(count * m_elementBytes), data);
        return piece;
    }

    void giveBack(const StorePiece& piece)
    {
        if (piece.count == 0 || !m_pieces.giveBack(piece))
            return;
        m_bytes -= m_sizes[piece.page];
        glDeleteBuffers(1, &m_buffers[piece.page]);
        m_buffers[piece.page] = 0;
    }

    [[nodiscard]] GLuint buffer(std::uint32_t page) const { return m_buffers[page]; }
    [[nodiscard]] std::size_t pages() const { return m_buffers.size(); }
    [[nodiscard]] std::size_t bytes() const { return m_bytes; }

private:
    PieceStore m_pieces{0};
    std::vector<GLuint> m_buffers;
    std::vector<std::size_t> m_sizes; // bytes
    std::size_t m_elementBytes = 1, m_bytes = 0;
};

} // namespace fell

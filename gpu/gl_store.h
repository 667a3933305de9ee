// SPDX-License-Identifier: Apache-2.0
// The buffers of a PieceStore's slabs. Private to gpu/: includes OpenGL.
#pragma once

#include <fell/gpu/mesh_store.h>
#include <fell/gpu/resources.h>

#include <epoxy/gl.h>

#include <algorithm>
#include <vector>

namespace fell::gpu {

/// Buffers for the pieces of a store, and where asked for a second one with each, with as many elements of another
/// kind. A class because they must agree.
class GlStore {
public:
    GlStore(ResourceTable& table, const char* label)
        : m_table(table)
        , m_label(label)
    {
    }

    /// Forgets everything. Slabs of `slabBytes`; 0 gives each piece a separate buffer. `besideBytes` an element go
    /// into the second buffers; 0: there are none.
    void clear(std::uint32_t slabBytes, std::size_t elementBytes, std::size_t besideBytes = 0)
    {
        m_buffers.clear();
        m_beside.clear();
        m_besideBytes = besideBytes;
        m_sizes.clear();
        m_bytes = 0;
        m_elementBytes = elementBytes;
        const std::size_t page = slabBytes == 0 ? 1 : std::max<std::size_t>(1, kPageBytes / elementBytes);
        m_pieces = PieceStore(static_cast<std::uint32_t>(slabBytes / elementBytes), static_cast<std::uint32_t>(page));
    }

    /// Makes room for `bytes` before the first mesh: a driver takes a millisecond for each slab, and a frame in flight
    /// should not. Nothing where each piece has a separate buffer.
    void reserve(std::size_t bytes, std::uint32_t slabBytes)
    {
        for (std::size_t made = 0; slabBytes > 0 && made < bytes; made += slabBytes) {
            const std::uint32_t slab = m_pieces.addAhead();
            create(slab, m_pieces.pagesOf(slab) * m_pieces.pageCount());
        }
    }

    /// A piece whose contents are still to be written.
    StorePiece take(std::uint32_t count)
    {
        const auto [piece, newSlab] = m_pieces.take(count);
        if (newSlab)
            create(piece.slab, *newSlab);
        return piece;
    }

    /// Bytes of a piece, `offset` after its begin.
    void write(const StorePiece& piece, std::size_t offset, const void* data, std::size_t bytes)
    {
        glNamedBufferSubData(m_buffers[piece.slab].id(), static_cast<GLintptr>(piece.first * m_elementBytes + offset),
            static_cast<GLsizeiptr>(bytes), data);
    }

    StorePiece put(const void* data, std::uint32_t count, const void* extra = nullptr)
    {
        const StorePiece piece = take(count);
        write(piece, 0, data, count * m_elementBytes);
        if (extra)
            glNamedBufferSubData(m_beside[piece.slab].id(), static_cast<GLintptr>(piece.first * m_besideBytes),
                static_cast<GLsizeiptr>(count * m_besideBytes), extra);
        return piece;
    }

    void release(const StorePiece& piece)
    {
        if (piece.count == 0 || !m_pieces.release(piece))
            return;
        m_bytes -= m_sizes[piece.slab];
        for (std::vector<Buffer>* buffers : {&m_buffers, &m_beside})
            if (piece.slab < buffers->size())
                Buffer dropped = std::move((*buffers)[piece.slab]);
    }

    [[nodiscard]] GLuint buffer(std::uint32_t slab) const { return m_buffers[slab].id(); }
    [[nodiscard]] GLuint extra(std::uint32_t slab) const { return m_beside[slab].id(); }
    [[nodiscard]] std::size_t slabs() const { return m_buffers.size(); }
    [[nodiscard]] const PieceStore& pieces() const { return m_pieces; }
    [[nodiscard]] std::size_t pageBytes() const { return m_pieces.pageCount() * (m_elementBytes + m_besideBytes); }
    [[nodiscard]] std::size_t bytes() const { return m_bytes; }

private:
    static constexpr std::size_t kPageBytes = 2048; // half of it is wasted at the end of each piece, on average
    void create(std::uint32_t slab, std::uint32_t elements)
    {
        m_buffers.resize(std::max<std::size_t>(m_buffers.size(), slab + 1u));
        m_sizes.resize(m_buffers.size());
        m_sizes[slab] = elements * (m_elementBytes + m_besideBytes);
        m_bytes += m_sizes[slab];
        const auto make = [this, elements](Buffer& buffer, std::size_t bytes) {
            buffer = Buffer(m_table, m_label);
            buffer.reserve(elements * bytes);
        };
        make(m_buffers[slab], m_elementBytes);
        if (m_besideBytes > 0) {
            m_beside.resize(m_buffers.size());
            make(m_beside[slab], m_besideBytes);
        }
    }

    PieceStore m_pieces{0};
    ResourceTable& m_table;
    const char* m_label;
    std::vector<Buffer> m_buffers, m_beside;
    std::vector<std::size_t> m_sizes; // bytes of both
    std::size_t m_elementBytes = 1, m_besideBytes = 0, m_bytes = 0;
};

} // namespace fell::gpu

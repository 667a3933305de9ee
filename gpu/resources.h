// SPDX-License-Identifier: Apache-2.0
// OpenGL's objects with an owner, a name and a size. Private to gpu/: includes OpenGL.
#pragma once

#include <fell/namespaces.h>

#include <epoxy/gl.h>

#include <cstddef>
#include <utility>

namespace fell::gpu {

/// What the objects of one renderer take in graphics memory. It outlives them.
class ResourceTable {
public:
    [[nodiscard]] std::size_t bytes() const { return m_bytes; }
    [[nodiscard]] std::size_t objects() const { return m_objects; }

private:
    friend class Resource;
    std::size_t m_bytes = 0, m_objects = 0;
};

/// One object. A class because it gives its name back, in the context that is current then.
class Resource {
public:
    using Drop = void (*)(GLuint name);
    Resource() = default;
    Resource(ResourceTable& table, GLuint name, Drop drop)
        : m_table(&table)
        , m_name(name)
        , m_drop(drop)
    {
        ++m_table->m_objects;
    }
    Resource(const Resource&) = delete;
    Resource& operator=(const Resource&) = delete;
    Resource(Resource&& other) noexcept { swap(other); }
    Resource& operator=(Resource&& other) noexcept
    {
        swap(other);
        return *this;
    }
    ~Resource()
    {
        if (m_name == 0)
            return;
        setBytes(0);
        --m_table->m_objects;
        m_drop(m_name);
    }
    [[nodiscard]] GLuint id() const { return m_name; }
    [[nodiscard]] std::size_t bytes() const { return m_bytes; }
    explicit operator bool() const { return m_name != 0; }

protected:
    void setBytes(std::size_t bytes)
    {
        m_table->m_bytes += bytes - m_bytes;
        m_bytes = bytes;
    }

private:
    void swap(Resource& other) noexcept
    {
        std::swap(m_table, other.m_table);
        std::swap(m_name, other.m_name);
        std::swap(m_drop, other.m_drop);
        std::swap(m_bytes, other.m_bytes);
    }
    ResourceTable* m_table = nullptr;
    GLuint m_name = 0;
    Drop m_drop = nullptr;
    std::size_t m_bytes = 0;
};

class Buffer : public Resource {
public:
    Buffer() = default;
    Buffer(ResourceTable& table, const char* label)
        : Resource(table, made(), [](GLuint name) { glDeleteBuffers(1, &name); })
    {
        glObjectLabel(GL_BUFFER, id(), -1, label);
    }
    /// Other contents, of another size.
    void set(const void* data, std::size_t size, GLenum usage = GL_STREAM_DRAW)
    {
        glNamedBufferData(id(), static_cast<GLsizeiptr>(size), data, usage);
        setBytes(size);
    }
    template <typename List> void setList(const List& list, GLenum usage = GL_STREAM_DRAW)
    {
        set(list.data(), list.size() * sizeof list[0], usage);
    }
    /// Of a fixed size from now on; contents come in pieces.
    void reserve(std::size_t size)
    {
        glNamedBufferStorage(id(), static_cast<GLsizeiptr>(size), nullptr, GL_DYNAMIC_STORAGE_BIT);
        setBytes(size);
    }

private:
    static GLuint made()
    {
        GLuint name = 0;
        glCreateBuffers(1, &name);
        return name;
    }
};

class Texture : public Resource {
public:
    Texture() = default;
    /// `bytes`: what its storage takes; of a buffer's texture 0.
    Texture(ResourceTable& table, const char* label, GLenum target, std::size_t size = 0)
        : Resource(table, made(target), [](GLuint name) { glDeleteTextures(1, &name); })
    {
        glObjectLabel(GL_TEXTURE, id(), -1, label);
        setBytes(size);
    }

private:
    static GLuint made(GLenum target)
    {
        GLuint name = 0;
        glCreateTextures(target, 1, &name);
        return name;
    }
};

class VertexArray : public Resource {
public:
    VertexArray() = default;
    VertexArray(ResourceTable& table, const char* label)
        : Resource(table, made(), [](GLuint name) { glDeleteVertexArrays(1, &name); })
    {
        glObjectLabel(GL_VERTEX_ARRAY, id(), -1, label);
    }

private:
    static GLuint made()
    {
        GLuint name = 0;
        glCreateVertexArrays(1, &name);
        return name;
    }
};

/// Takes over a program that was linked.
class Program : public Resource {
public:
    Program() = default;
    Program(ResourceTable& table, GLuint linked)
        : Resource(table, linked, [](GLuint name) { glDeleteProgram(name); })
    {
    }
};

} // namespace fell::gpu

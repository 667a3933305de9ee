/* SPDX-License-Identifier: Apache-2.0 */
/*
 * A method of your own for Fell: a shared library that exports fell_method().
 *
 * This header is plain C and needs nothing else. Version 1 knows meshers. docs/howto/own-mesher.md leads from the
 * example in examples/own-mesher/ to a measured ratio.
 */
#ifndef FELL_METHOD_H
#define FELL_METHOD_H

#include <stddef.h>
#include <stdint.h>

#ifdef __cplusplus
extern "C" {
#endif

/* Fell loads methods of its own version and of earlier ones. Struct members are only ever added at the end. */
#define FELL_METHOD_VERSION 1u

/* Sides of a voxel: +x -x +y -y +z -z. East is +x, up is +y, south is +z. The axis of a side is side / 2. */
enum { FELL_EAST, FELL_WEST, FELL_UP, FELL_DOWN, FELL_SOUTH, FELL_NORTH, FELL_SIDES };

/* Opacity classes: each is a separate mesh in a chunk. */
enum { FELL_SOLID, FELL_TRANSPARENT, FELL_LIQUID, FELL_CLASSES };

/* The voxels of a chunk with `apron` layers of its neighbours on each side. Read only; valid during the call.
 * Voxel (x, y, z), each from -apron to edge + apron - 1, is
 * materials[x * stride[0] + y * stride[1] + z * stride[2]]. Material 0 is air. stride[0] is 1. */
typedef struct FellVoxels {
    int32_t edge; /* 16, 32 or 64 */
    int32_t apron;
    const uint16_t* materials; /* of voxel (0, 0, 0) */
    ptrdiff_t stride[3]; /* in voxels */
} FellVoxels;

/* What a mesher must know of the materials: flags[m] of material m. */
typedef struct FellMaterials {
    uint32_t count; /* including air */
    uint32_t solid_cubes; /* materials 1 to this one are opaque cubes: one comparison tells them from all others */
    const uint32_t* flags;
} FellMaterials;

/* Materials that are no cubes (and air) are meshed by Fell itself: leave them out. */
#define FELL_IS_CUBE(flags) (((flags) >> 2) & 1u)
#define FELL_CLASS(flags) ((flags)&3u)
/* Does it hide all that lies behind this side of its voxel? */
#define FELL_HIDES(flags, side) (((flags) >> (8 + (side))) & 1u)

/* Is the face of a cube of material `here` exposed, with `there` beyond `side`? Neighbours of one transparent material
 * hide the face between them. */
static inline int fell_is_exposed(const FellMaterials* materials, uint16_t here, uint16_t there, int side)
{
    const uint32_t beyond = materials->flags[there];
    if (there == 0)
        return 1;
    if (FELL_CLASS(beyond) != FELL_SOLID)
        return here != there;
    return !FELL_HIDES(beyond, side ^ 1);
}

/* A rectangle of width x height faces. (x, y, z) is its lowest voxel in the chunk. With a the axis of the side, width
 * runs along axis (a + 1) % 3 and height along (a + 2) % 3.
 * Bits, low first: x 6, y 6, z 6, width - 1 6, height - 1 6, side 3, material 12, occlusion 8; the rest are 0. */
typedef uint64_t FellQuad;
static inline FellQuad fell_quad(
    int x, int y, int z, int width, int height, int side, uint16_t material, uint32_t occlusion)
{
    return (FellQuad)x | (FellQuad)y << 6 | (FellQuad)z << 12 | (FellQuad)(width - 1) << 18
        | (FellQuad)(height - 1) << 24 | (FellQuad)side << 30 | (FellQuad)material << 33 | (FellQuad)occlusion << 45;
}
/* Ambient occlusion of the four corners, each 0 (open) to 3: bit c is the low bit of corner c, bit 4 + c its high bit.
 * Corners are at (low u, low v), (high u, low v), (high u, high v), (low u, high v), u along the width. A corner counts
 * the opaque cubes among the three voxels next to it in the layer that the side faces; two that meet there make 3. */

/* A vertex of triangles of opaque material. */
typedef struct FellVertex {
    int16_t position[3]; /* 1/256 voxel from the chunk's lowest corner, 0 to edge * 256 */
    uint16_t material;
    int8_t normal[3]; /* 1/127 */
    uint8_t occlusion; /* 0 to 3 */
} FellVertex;

/* Where a mesher writes. Each call checks what it is given: a quad or a vertex outside the chunk, an unknown material,
 * or an index that names no vertex is refused, and the mesher is reported with it. Both return 0, or not 0 if
 * something was refused: return then. */
typedef struct FellSink FellSink;
struct FellSink {
    int (*quads)(FellSink* sink, uint32_t opacity_class, const FellQuad* quads, size_t count);
    /* `indices` are of these vertices, three a triangle, counter-clockwise seen from outside. */
    int (*triangles)(
        FellSink* sink, const FellVertex* vertices, size_t vertex_count, const uint32_t* indices, size_t index_count);
};

/* What the rules of the setup ask for. */
typedef struct FellMeshRules {
    uint32_t occlusion; /* not 0: quads and vertices carry ambient occlusion; merge faces of equal occlusion only */
} FellMeshRules;

/* What a mesher makes, for FellMethod.traits. */
enum {
    FELL_MERGES_FACES = 1, /* a quad may be larger than one face */
    FELL_EMITS_TRIANGLES = 2,
    FELL_EMITS_HIDDEN_FACES = 4, /* also between opaque cubes */
    FELL_IGNORES_OCCLUSION = 8, /* the setup must say mesh.shade=none */
    FELL_NO_SEAMS = 16, /* its border cannot be closed where levels of detail meet */
    FELL_CUTS_CUBES = 32 /* cubes are not filled to their faces: what is behind one may show */
};

enum { FELL_MESHER = 1 };

typedef struct FellMethod {
    uint32_t version; /* FELL_METHOD_VERSION */
    uint32_t kind; /* FELL_MESHER */
    uint32_t traits;
    int32_t apron; /* layers of neighbours that it reads, 1 to 8 */
    const char* name; /* lower-case letters, digits and hyphens, at most 24: setups use it */
    const char* title; /* for lists, at most 40 bytes of UTF-8 */
    const char* note; /* a sentence that says what it does, at most 200 bytes */
    /* The state of one thread; both may be null. create returns null if it is out of memory. */
    void* (*create)(void);
    void (*destroy)(void* state);
    /* Writes the surface of all cubes of the chunk. Called by many threads, each with a separate state. Returns 0;
     * anything else is a failure. */
    int (*mesh)(void* state, const FellVoxels* voxels, const FellMaterials* materials, const FellMeshRules* rules,
        FellSink* sink);
} FellMethod;

#if defined(_WIN32)
#define FELL_EXPORT __declspec(dllexport)
#else
#define FELL_EXPORT __attribute__((visibility("default")))
#endif

/* The one function that a library exports. What it returns lives as long as the library. */
FELL_EXPORT const FellMethod* fell_method(void);

#ifdef __cplusplus
}
#endif

#endif /* FELL_METHOD_H */

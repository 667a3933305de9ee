/* SPDX-License-Identifier: Apache-2.0 */
/* The mesher of examples/own-mesher with a planted fault: FAULT is the name of one of the functions below. */
#include <fell/method.h>

#define fell_method good_method
#include "../../../examples/own-mesher/own_mesher.c"
#undef fell_method

#include <string.h>
#include <unistd.h>

typedef struct Call {
    void* state;
    const FellVoxels* voxels;
    const FellMaterials* materials;
    const FellMeshRules* rules;
    FellSink* sink;
} Call;

const FellMethod* good_method(void);

static int good(const Call* call)
{
    return good_method()->mesh(call->state, call->voxels, call->materials, call->rules, call->sink);
}

/* How many voxels of the chunk itself are of material 2: some faults need two. */
static int seconds(const Call* call)
{
    const FellVoxels* v = call->voxels;
    int found = 0;
    for (int y = 0; y < v->edge; ++y)
        for (int z = 0; z < v->edge; ++z)
            for (int x = 0; x < v->edge; ++x)
                found += v->materials[x * v->stride[0] + y * v->stride[1] + z * v->stride[2]] == 2;
    return found;
}

static volatile int sink_of_reads;

static int crash(const Call* call)
{
    volatile int* volatile nothing = 0;
    if (seconds(call) >= 2)
        *nothing = 1;
    return good(call);
}

static int hang(const Call* call)
{
    for (volatile int i = 0; seconds(call) >= 2; ++i) { }
    return good(call);
}

static int leave(const Call* call)
{
    if (seconds(call) >= 2)
        _exit(0);
    return good(call);
}

static int overflow_high(const Call* call)
{
    const FellVoxels* v = call->voxels;
    const ptrdiff_t end = v->edge + v->apron; /* one layer too far */
    ((uint16_t*)v->materials)[end * v->stride[1] + end * v->stride[2] + end] = 1;
    return good(call);
}

static int overflow_low(const Call* call)
{
    const FellVoxels* v = call->voxels;
    const ptrdiff_t begin = -(ptrdiff_t)v->apron - 1;
    sink_of_reads = v->materials[begin * v->stride[1]];
    return good(call);
}

static int write_voxels(const Call* call)
{
    ((uint16_t*)call->voxels->materials)[0] = 1;
    return good(call);
}

static int write_materials(const Call* call)
{
    ((uint32_t*)call->materials->flags)[1] ^= 1u << 31;
    return good(call);
}

/* Drops faces that look east from the last layer of the chunk. */
static FellSink* real_sink;
static int last_layer;

static int forget(FellSink* sink, uint32_t class, const FellQuad* quads, size_t count)
{
    (void)sink;
    for (size_t i = 0; i < count; ++i) {
        const int x = (int)(quads[i] & 63), side = (int)(quads[i] >> 30 & 7);
        if (side == FELL_EAST && x == last_layer)
            continue;
        if (real_sink->quads(real_sink, class, quads + i, 1))
            return 1;
    }
    return 0;
}

static int wrong_face(const Call* call)
{
    FellSink forgetful = {forget, 0};
    Call other = *call;
    real_sink = call->sink;
    last_layer = call->voxels->edge - 1;
    other.sink = &forgetful;
    return good(&other);
}

static int outside(const Call* call)
{
    const FellQuad wide = fell_quad(call->voxels->edge - 1, 0, 0, 2, 1, FELL_SOUTH, 1, 0);
    if (call->sink->quads(call->sink, FELL_SOLID, &wide, 1))
        return 1;
    return good(call);
}

static int leak(const Call* call)
{
    static void* volatile kept;
    kept = malloc(100);
    return good(call);
}

static int memory(const Call* call)
{
    for (;;) {
        char* more = malloc(1 << 24);
        memset(more, 1, 1 << 24);
    }
    return good(call);
}

static int unsteady(const Call* call)
{
    static int calls;
    const FellQuad quad = fell_quad(0, 0, 0, 1, 1, FELL_UP, 1, 0);
    if (++calls % 2 == 0 && call->sink->quads(call->sink, FELL_SOLID, &quad, 1))
        return 1;
    return good(call);
}

static int failure(const Call* call)
{
    (void)call;
    return 7;
}

/* Passes the check, which calls it some 900 times. */
static int late(const Call* call)
{
    static int calls;
    return ++calls > 1200 ? 9 : good(call);
}

static int none(const Call* call)
{
    return good(call);
}

static int mesh_with_fault(
    void* state, const FellVoxels* voxels, const FellMaterials* materials, const FellMeshRules* rules, FellSink* sink)
{
    const Call call = {state, voxels, materials, rules, sink};
    static int (*const kAll[])(const Call*) = {crash, hang, leave, overflow_high, overflow_low, write_voxels,
        write_materials, wrong_face, outside, leak, memory, unsteady, failure, late, none};
    (void)kAll; /* one of them is used */
    return FAULT(&call);
}

#ifdef CRASHES_WHEN_LOADED
__attribute__((constructor)) static void loaded(void)
{
    abort();
}
#endif

#ifndef NAME
#define NAME "faulty"
#endif
#ifndef VERSION
#define VERSION FELL_METHOD_VERSION
#endif
#ifndef APRON
#define APRON 1
#endif

const FellMethod* fell_method(void)
{
    static FellMethod method;
    method = *good_method();
    method.version = VERSION;
    method.name = NAME;
    method.apron = APRON;
    method.mesh = mesh_with_fault;
    return &method;
}

/* SPDX-License-Identifier: Apache-2.0 */
/* A mesher in C: one quad per exposed face, joined along its row where the neighbours are equal. */
#include <fell/method.h>

#include <stdlib.h>

enum { ROOM = 4096 };

typedef struct State {
    FellQuad quads[FELL_CLASSES][ROOM]; /* sent in batches: a call for each quad would cost more than the quad */
    size_t count[FELL_CLASSES];
} State;

static void* create(void)
{
    return calloc(1, sizeof(State));
}

static int send(State* state, uint32_t class, FellSink* sink)
{
    const size_t count = state->count[class];
    state->count[class] = 0;
    return count == 0 ? 0 : sink->quads(sink, class, state->quads[class], count);
}

static int mesh(
    void* of, const FellVoxels* voxels, const FellMaterials* materials, const FellMeshRules* rules, FellSink* sink)
{
    State* state = of;
    (void)rules; /* FELL_IGNORES_OCCLUSION */
    for (int side = 0; side < FELL_SIDES; ++side) {
        const ptrdiff_t beyond = voxels->stride[side / 2] * (side % 2 ? -1 : 1);
        const int along = (side / 2 + 1) % 3, across = (side / 2 + 2) % 3; /* the axes of width and height */
        int at[3]; /* the voxel */
        for (at[side / 2] = 0; at[side / 2] < voxels->edge; ++at[side / 2])
            for (at[across] = 0; at[across] < voxels->edge; ++at[across]) {
                int width = 0; /* of the run of equal faces that ends before at[along] */
                uint16_t run = 0;
                for (at[along] = 0; at[along] <= voxels->edge; ++at[along]) {
                    uint16_t face = 0;
                    if (at[along] < voxels->edge) {
                        const uint16_t* here = voxels->materials + at[0] * voxels->stride[0] + at[1] * voxels->stride[1]
                            + at[2] * voxels->stride[2];
                        if (FELL_IS_CUBE(materials->flags[*here])
                            && fell_is_exposed(materials, *here, here[beyond], side))
                            face = *here;
                    }
                    if (face != run && width > 0) {
                        int low[3] = {at[0], at[1], at[2]};
                        low[along] -= width;
                        const uint32_t class = FELL_CLASS(materials->flags[run]);
                        state->quads[class][state->count[class]++]
                            = fell_quad(low[0], low[1], low[2], width, 1, side, run, 0);
                        if (state->count[class] == ROOM && send(state, class, sink))
                            return 1;
                    }
                    width = face == 0 ? 0 : face == run ? width + 1 : 1;
                    run = face;
                }
            }
    }
    for (uint32_t class = 0; class < FELL_CLASSES; ++class)
        if (send(state, class, sink))
            return 1;
    return 0;
}

const FellMethod* fell_method(void)
{
    static const FellMethod method = {FELL_METHOD_VERSION, FELL_MESHER, FELL_MERGES_FACES | FELL_IGNORES_OCCLUSION, 1,
        "rows", "rows of faces", "Joins equal faces along their row.", create, free, mesh};
    return &method;
}

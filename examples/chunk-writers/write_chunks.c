/* SPDX-License-Identifier: Apache-2.0
 * Writes chunks in the container fell-chunks (docs/fell-chunks.md). Copy the three functions into your engine.
 * As it is, the program writes a hill to standard output:
 *     cc -O2 write_chunks.c -o write_chunks && ./write_chunks > hill.chunks && fell-cli world import hill.chunks hill.fell
 */
#include <stdint.h>
#include <stdio.h>
#include <string.h>

static void put(FILE *out, uint32_t value, int bytes) /* the lowest byte first */
{
    for (int i = 0; i < bytes; ++i)
        putc((int)(value >> (8 * i) & 0xFF), out);
}

static uint32_t chunks;

/* header: JSON with "edge" and "palette". */
static void chunks_begin(FILE *out, const char *header)
{
    fprintf(out, "fell-chunks 1 %zu\n%s", strlen(header), header);
    chunks = 0;
}

/* count: voxels of a chunk. ids: the first axis fastest, then the second; 0 is air. In runs of equal ids. */
static void chunks_add(FILE *out, int32_t x, int32_t y, int32_t z, const uint16_t *ids, size_t count)
{
    uint32_t runs = 0;
    for (size_t i = 0; i < count; ++i)
        runs += i == 0 || ids[i] != ids[i - 1];
    fputs("CHNK", out);
    put(out, (uint32_t)x, 4);
    put(out, (uint32_t)y, 4);
    put(out, (uint32_t)z, 4);
    put(out, 1, 1); /* encoding: runs */
    put(out, 0, 1); /* not compressed */
    put(out, 0, 2);
    put(out, 6 * runs, 4);
    for (size_t begin = 0, i = 1; i <= count; ++i)
        if (i == count || ids[i] != ids[begin]) {
            put(out, (uint32_t)(i - begin), 4);
            put(out, ids[begin], 2);
            begin = i;
        }
    ++chunks;
}

static void chunks_end(FILE *out)
{
    fputs("END.", out);
    put(out, chunks, 4);
}

int main(void)
{
    enum { EDGE = 16, AROUND = 3 };
    static uint16_t ids[EDGE * EDGE * EDGE];
    chunks_begin(stdout, "{\"name\": \"Hill\", \"edge\": [16, 16, 16], \"metres\": 0.5, \"palette\": ["
                         "{\"id\": 1, \"name\": \"slate\", \"colour\": \"#828C98\"}, {\"id\": 2, \"name\": \"turf\", \"colour\": \"#A3AE78\"}]}");
    for (int cz = -AROUND; cz < AROUND; ++cz)
        for (int cy = 0; cy < 2; ++cy)
            for (int cx = -AROUND; cx < AROUND; ++cx) {
                for (int i = 0; i < EDGE * EDGE * EDGE; ++i) {
                    const int x = cx * EDGE + i % EDGE, y = cy * EDGE + i / EDGE % EDGE, z = cz * EDGE + i / EDGE / EDGE;
                    const int ground = 28 - (x * x + z * z) / 80;
                    ids[i] = (uint16_t)(y < ground - 1 ? 1 : y < ground ? 2 : 0);
                }
                chunks_add(stdout, cx, cy, cz, ids, EDGE * EDGE * EDGE);
            }
    chunks_end(stdout);
    return ferror(stdout) != 0;
}

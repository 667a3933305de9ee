// SPDX-License-Identifier: Apache-2.0
// Every figure that Fell claims, as a ratio in one run. Names are area/this_over_that/world; the answer is in "ratio".
#include <benchmark/benchmark.h>

BENCHMARK_MAIN();

// SPDX-License-Identifier: Apache-2.0
// The table of ways to submit, in the order of Submission. A new one is a file of gpu/submit/ and a line here.
#include <fell/gpu/quad_drawer.h>

namespace fell::gpu {

extern const Submitter kPerBlock, kPerChunk, kInstanced, kIndirect;

const Submitter& submitterOf(Submission submission)
{
    static constexpr std::array kAll{&kPerBlock, &kPerChunk, &kInstanced, &kIndirect};
    return *kAll[static_cast<std::size_t>(submission)];
}

} // namespace fell::gpu

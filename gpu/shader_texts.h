// SPDX-License-Identifier: Apache-2.0
// The texts of gpu/shaders, one name a file.
#pragma once

namespace fell::shaders {
extern const char* const sky_vert; // NOLINT(readability-identifier-naming): named after the file
extern const char* const sky_frag; // NOLINT(readability-identifier-naming)
extern const char* const path_vert; // NOLINT(readability-identifier-naming)
extern const char* const path_frag; // NOLINT(readability-identifier-naming)
extern const char* const line_vert; // NOLINT(readability-identifier-naming)
extern const char* const line_frag; // NOLINT(readability-identifier-naming)
extern const char* const terrain_vert; // NOLINT(readability-identifier-naming)
extern const char* const shape_vert; // NOLINT(readability-identifier-naming)
extern const char* const terrain_frag; // NOLINT(readability-identifier-naming)
} // namespace fell::shaders

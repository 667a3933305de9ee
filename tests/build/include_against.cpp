// SPDX-License-Identifier: Apache-2.0
// grid stands above mesh, so this must not compile.
#include "mesh/quad.h"

// SPDX-License-Identifier: Apache-2.0
// The same with a header that grid may include: it is the order that the other one breaks.
#include "grid/coords.h"

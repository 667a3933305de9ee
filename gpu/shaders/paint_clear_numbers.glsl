// As paint_numbers.glsl, of sides that are not told apart by direction.
#define PAINTS_CLEAR
#include "paint_numbers.glsl"

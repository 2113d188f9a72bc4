// The kernels of one instruction set: included by tiles.cpp after the words that describe it, which end here. No
// include guard for that reason.
#include "tiles-body.h"
#include "blocks-body.h"
#undef LANES
#undef SPAN
#undef BATCH
#undef TARGET
#undef GATHER
#undef BITS
#undef EVERY
#undef ROOT
#undef INSTRUCTIONS

// How much more memory this process may take.
#ifndef FJORDLINE_MEMORY_LIMIT_H
#define FJORDLINE_MEMORY_LIMIT_H

namespace fjordline {

// So many bytes beyond what it has now; negative: as it was. False where the system knows no such limit.
bool limit_memory(double bytes);

}  // namespace fjordline

#endif

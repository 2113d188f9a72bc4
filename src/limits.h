// What a piece of work may take: time, and memory.
#ifndef FJORDLINE_LIMITS_H
#define FJORDLINE_LIMITS_H

namespace fjordline {

// From now on so many seconds; infinite: no end.
void set_deadline(double seconds);
bool past_deadline();

// So many bytes beyond what the process has now; negative: as it was. False where the system knows no such limit.
bool limit_memory(double bytes);

}  // namespace fjordline

#endif

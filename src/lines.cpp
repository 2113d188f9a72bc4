#include "lines.h"

namespace fjordline {

LineCount count_records(const std::uint8_t* bytes, std::size_t size, LineCount now) {
  for (std::size_t i = 0; i < size; ++i) {
    const std::uint8_t byte = bytes[i];
    if (byte == '"') {
      now.quoted = !now.quoted;
      now.filled = true;
    } else if (byte == '\n' && !now.quoted) {
      if (now.filled) ++now.records;
      now.filled = false;
    } else if (byte != ' ' && byte != '\r' && byte != '\n') {
      now.filled = true;
    }
  }
  return now;
}

}  // namespace fjordline

// Records of delimited text, counted byte by byte, a block of the file at a time.
#ifndef FJORDLINE_LINES_H
#define FJORDLINE_LINES_H

#include <cstddef>
#include <cstdint>

namespace fjordline {

struct LineCount {
  double records = 0;    // line ends outside quotes whose line holds more than blanks
  bool filled = false;   // the line that is open holds something
  bool quoted = false;   // and a quote in it is open
};

// Lines end with a line feed; a carriage return counts as a blank.
LineCount count_records(const std::uint8_t* bytes, std::size_t size, LineCount so_far);

}  // namespace fjordline

#endif

#include <testthat/vendor/catch.h>

#include <cstring>

#include "lines.h"

using namespace fjordline;

namespace {

LineCount counted(const char* text, std::size_t cut) {
  const std::uint8_t* bytes = reinterpret_cast<const std::uint8_t*>(text);
  return count_records(bytes + cut, std::strlen(text) - cut, count_records(bytes, cut, {}));
}

}  // namespace

TEST_CASE("records are lines that hold something, those in quotes one, wherever the blocks are cut") {
  const char* text = "a,b\r\n1,\"x\n\ny\"\n\n  \r\n\t\n2,z";
  for (std::size_t cut = 0; cut <= std::strlen(text); ++cut) {
    const LineCount found = counted(text, cut);
    REQUIRE(found.records == 3);
    REQUIRE(found.filled);
    REQUIRE_FALSE(found.quoted);
  }
  REQUIRE(counted("a\n\"b\n", 2).quoted);
}

#include "fuzz.hpp"
#include "position-text.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  std::vector<ochre::Point> out;
  ochre::read_positions(reinterpret_cast<const char*>(data), size, out);
  return 0;
}

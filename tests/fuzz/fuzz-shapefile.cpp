// One input holds both parts: two bytes for the length of the table, the table, the shapes.
#include "fuzz.hpp"
#include "shapefile.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  if (size < 2) return 0;
  size_t table = std::min<size_t>(data[0] | data[1] << 8, size - 2);
  const char* bytes = reinterpret_cast<const char*>(data) + 2;
  return refused_or([&] {
    ReadBack sink;
    ochre::FileText dbf(bytes, table), shp(bytes + table, size - 2 - table);
    ochre::read_shapefile(shp, table ? &dbf : nullptr, sink);
  });
}

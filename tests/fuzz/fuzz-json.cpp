#include "fuzz.hpp"
#include "geojson.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  return refused_or([&] {
    // Of several objects of a TopoJSON the first is taken.
    ochre::FileText text(reinterpret_cast<const char*>(data), size);
    std::string layer;
    try {
      ReadBack first;
      ochre::read_json(text, "", first);
    } catch (const ochre::FileError& e) {
      if (e.layers.empty()) throw;
      layer = e.layers[0];
    }
    ReadBack sink;
    ochre::Boundaries r = ochre::read_json(text, layer, sink);
    for (const ochre::Column& c : r.properties.columns)
      if (c.kind != ochre::Column::Kind::empty && c.rows() != r.features) std::abort();
  });
}

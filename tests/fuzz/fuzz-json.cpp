#include "fuzz.hpp"
#include "geojson.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  return refused_or([&] {
    ReadBack sink;
    ochre::FileText text(reinterpret_cast<const char*>(data), size);
    std::string layer;
    refused_or([&] { layer = ochre::json_layers(text).at(0); });
    ochre::Boundaries r = ochre::read_json(text, layer, sink);
    for (const ochre::Column& c : r.properties.columns) if (c.kind != ochre::Column::Kind::empty && c.rows() != r.features) std::abort();
  });
}

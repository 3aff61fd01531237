// Well-known binary in any dialect becomes plain; what is plain can be walked, written as text and
// as bytes again.
#include "decimal-text.hpp"
#include "fuzz.hpp"
#include "geometry-text.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  return refused_or([&] {
    ochre::WkbWriter plain, again;
    refused_or([&] {
      ochre::FlatLayer l;
      ochre::FlatGatherer g(l);
      ochre::walk_wkb(data, size, g);
    });
    ochre::plain_wkb(data, size, plain);
    std::string text;
    for (int digits : {-1, 3}) {
      ochre::put_wkt(text, plain.data(), plain.size(), ochre::DecimalText(digits));
      ochre::put_geojson(text, plain.data(), plain.size(), ochre::DecimalText(digits));
    }
    ochre::FlatLayer layer;
    ochre::FlatGatherer gather(layer, false);
    ochre::walk_wkb(plain.data(), plain.size(), gather);
    gather.end_feature(ochre::wkb_shape(plain.data(), plain.size()));
    ochre::write_feature(layer, 0, again);
    ochre::plain_wkb(again.data(), again.size(), plain);
  });
}

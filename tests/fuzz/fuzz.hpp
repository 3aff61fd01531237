// What the fuzz targets share: a sink that reads back what a parser wrote, and the rule that any
// input is read or refused with a FileError or WkbError, and nothing else.
#pragma once
#include <cstdint>
#include <cstdlib>

#include "boundaries.hpp"
#include "file-error.hpp"
#include "flat.hpp"

struct ReadBack : ochre::GeometrySink {
  ochre::FlatLayer layer;
  void geometry(const uint8_t* data, size_t size) override {
    if (!size) return;
    ochre::FlatGatherer gather(layer);
    ochre::walk_wkb(data, size, gather);  // a parser's own bytes are always good
    gather.end_feature(ochre::wkb_shape(data, size));
  }
};

template <class Work>
int refused_or(Work work) {
  try {
    work();
  } catch (const ochre::FileError&) {
  } catch (const ochre::WkbError&) {}
  return 0;
}

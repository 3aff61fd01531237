// GeoJSON (RFC 7946) straight into well-known binary and typed columns, in one pass over the
// text. What a text may be: a FeatureCollection, a Feature or a bare geometry, or several of them
// one after the other (one a line, or as a text sequence, RFC 8142); members may come in any
// order; members that the standard does not know are passed over. Coordinates, nine tenths of
// such a file, are read by our own number reader; properties by simdjson.
#pragma once
#include <limits>
#include <memory>
#include <string>
#include <vector>

#include "boundaries.hpp"
#include "file-error.hpp"

namespace ochre {

// A whole file in memory, with room behind its end for readers that take eight bytes at a time.
class FileText {
 public:
  explicit FileText(const std::string& path);
  FileText(const char* data, size_t size);
  const char* data() const { return bytes_.get(); }
  size_t size() const { return size_; }

 private:
  std::unique_ptr<char[]> bytes_;  // not filled with zeros before the file is
  size_t size_ = 0;
};

// Reads GeoJSON, or TopoJSON when the text is that. `layer` names an object of a TopoJSON file;
// empty takes the only one. Throws FileError.
// More names of properties than `most_columns` end in a FileError.
Boundaries read_json(const FileText& text, const std::string& layer, GeometrySink& sink,
                     size_t most_columns = std::numeric_limits<size_t>::max());

}  // namespace ochre

// Shapefiles: geometry from the .shp part, columns from the .dbf part (dBASE III and its kin).
// Rings come in a flat list; those that run clockwise are shells, the others holes of the shell
// around them (Shapefile Technical Description, 1998). Texts keep the bytes of their encoding;
// `encoding` says what the file's language byte means.
#pragma once
#include <string>

#include "boundaries.hpp"
#include "file-error.hpp"
#include "geojson.hpp"

namespace ochre {

struct Table {
  std::string encoding;       // empty when the file does not say
  std::vector<bool> date;     // columns of dates, as YYYY-MM-DD text
  std::vector<bool> deleted;  // rows that are marked as deleted
  size_t rows = 0;
};

struct ShapefileResult : Boundaries {
  Table table;
};

// `dbf` may be null: then there are no columns.
ShapefileResult read_shapefile(const FileText& shp, const FileText* dbf, GeometrySink& sink);

}  // namespace ochre

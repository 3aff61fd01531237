// Tables of the dBASE III family, as shapefiles carry them.
#pragma once
#include "columns.hpp"
#include "shapefile.hpp"

namespace ochre {

Table read_dbf(const FileText& file, ColumnSet& columns);

}  // namespace ochre

#include "shapefile.hpp"

#include <algorithm>

#include "coordinates.hpp"
#include "dbf.hpp"
#include "rings.hpp"

namespace ochre {

namespace {

class ShpReader {
 public:
  ShpReader(const FileText& file, ShapefileResult& result, GeometrySink& sink)
      : data_(reinterpret_cast<const uint8_t*>(file.data())),
        size_(file.size()),
        result_(result),
        sink_(sink) {}

  void read(const std::vector<bool>& deleted) {
    if (size_ < 100 || big(0) != 9994)
      fail("the file is not the .shp part of a shapefile",
           "it begins with the number 9994; fetch it again", 0);
    at_ = 100;
    size_t row = 0;
    while (at_ < size_) {
      feature_ = static_cast<long>(row) + 1;
      if (size_ - at_ < 12)
        fail("the file ends inside of a record", "it is cut off; fetch it again", at_);
      uint64_t words = big(at_ + 4), bytes = 2 * words;
      if (words < 2 || bytes > size_ - at_ - 8)
        fail("a record says that it is longer than the file",
             "the file is cut off or damaged; fetch it again", at_ + 4);
      size_t next = at_ + 8 + bytes;
      end_ = next;
      at_ += 8;
      bool kept = row >= deleted.size() || !deleted[row];
      writer_.clear();
      if (kept) {
        geometry();
        sink_.geometry(writer_.data(), writer_.size());
        ++result_.features;
      }
      if ((++row & 255) == 0) sink_.progress(double(at_) / size_);
      at_ = next;
    }
    rows_ = row;
  }
  size_t rows() const { return rows_; }

 private:
  void geometry() {
    uint32_t type = little(at_);
    size_t here = at_;
    at_ += 4;
    shape_.clear();
    shape_.dims = 2;
    switch (type) {
      case 0:
        return;
      case 1:
      case 11:
      case 21:
        need(16);
        shape_.depth = 0;
        add(at_);
        finish(Shape::point);
        return;
      case 8:
      case 18:
      case 28: {
        need(36);
        uint64_t n = little(at_ + 32);
        at_ += 36;
        need(16 * n);
        for (uint64_t i = 0; i < n; ++i)
          add(at_ + 16 * i);
        finish(Shape::multipoint);
        return;
      }
      case 3:
      case 13:
      case 23:
        lines();
        return;
      case 5:
      case 15:
      case 25:
        polygons();
        return;
      case 31:
        fail("a multipatch (a solid shape) is not a boundary", "export areas, lines or points",
             here);
      default:
        fail("shape type " + std::to_string(type) + " is not known",
             "the file is damaged; fetch it again", here);
    }
  }

  // Parts begin where the file says; the counts and the starts must fit in the record.
  void parts(uint64_t& points) {
    need(40);
    uint64_t n = little(at_ + 32);
    points = little(at_ + 36);
    at_ += 40;
    need(4 * n + 16 * points);
    start_.clear();
    for (uint64_t i = 0; i < n; ++i) {
      uint64_t s = little(at_ + 4 * i);
      if (s > points || (i && s < start_.back()))
        fail("the part of a shape begins outside of its points",
             "the file is damaged; fetch it again", at_ + 4 * i);
      start_.push_back(s);
    }
    start_.push_back(points);
    at_ += 4 * n;
  }

  void lines() {
    uint64_t points;
    parts(points);
    for (size_t r = 0; r + 1 < start_.size(); ++r) {
      if (start_[r] == start_[r + 1]) continue;
      for (size_t i = start_[r]; i < start_[r + 1]; ++i)
        add(at_ + 16 * i);
      shape_.end_ring();
    }
    finish(shape_.ring_end.size() == 1 ? Shape::line : Shape::multiline);
  }

  void polygons() {
    uint64_t points;
    parts(points);
    rings_.clear();
    for (size_t r = 0; r + 1 < start_.size(); ++r) {
      if (start_[r] == start_[r + 1]) continue;
      for (size_t i = start_[r]; i < start_[r + 1]; ++i)
        rings_.points.push_back({real(at_ + 16 * i), real(at_ + 16 * i + 8)});
      rings_.end.push_back(rings_.points.size());
    }
    std::vector<bool> shell(rings_.size());
    for (size_t r = 0; r < rings_.size(); ++r)
      shell[r] = signed_area(rings_.begin(r), rings_.count(r)) <= 0;
    // Some programs write every ring the other way round.
    if (std::find(shell.begin(), shell.end(), true) == shell.end())
      shell = shells_by_nesting(rings_);
    std::vector<size_t> owner = assign_holes(rings_, shell), order(rings_.size());
    for (size_t r = 0; r < order.size(); ++r)
      order[r] = r;
    std::stable_sort(order.begin(), order.end(), [&](size_t a, size_t b) {
      return owner[a] != owner[b] ? owner[a] < owner[b] : owner[a] == a && owner[b] != b;
    });
    for (size_t k = 0; k < order.size(); ++k) {
      size_t r = order[k];
      if (k && owner[r] == r) shape_.end_part();
      for (size_t i = rings_.from(r); i < rings_.end[r]; ++i) {
        shape_.add(rings_.points[i].x, rings_.points[i].y);
        result_.see(rings_.points[i].x, rings_.points[i].y);
      }
      shape_.end_ring();
    }
    if (!order.empty()) shape_.end_part();
    finish(shape_.part_end.size() == 1 ? Shape::polygon : Shape::multipolygon);
  }

  void add(size_t at) {
    double x = real(at), y = real(at + 8);
    shape_.add(x, y);
    result_.see(x, y);
  }
  void finish(Shape shape) {
    result_.positions += shape_.positions();
    if (shape_.positions()) shape_.write(shape, writer_);
  }

  void need(uint64_t n) const {
    if (n > end_ - at_)
      fail("a shape says that it has more points than its record holds",
           "the file is damaged; fetch it again", at_);
  }
  uint32_t big(size_t i) const {
    return uint32_t(data_[i]) << 24 | uint32_t(data_[i + 1]) << 16 | uint32_t(data_[i + 2]) << 8 |
           data_[i + 3];
  }
  uint32_t little(size_t i) const {
    return uint32_t(data_[i + 3]) << 24 | uint32_t(data_[i + 2]) << 16 |
           uint32_t(data_[i + 1]) << 8 | data_[i];
  }
  double real(size_t i) const {
    uint64_t v = uint64_t(little(i + 4)) << 32 | little(i);
    double d;
    std::memcpy(&d, &v, 8);
    return d;
  }
  [[noreturn]] void fail(const std::string& what, const std::string& mend, size_t at) const {
    FileError e(what, mend);
    e.byte = static_cast<long long>(at);
    e.feature = feature_;
    throw e;
  }

  const uint8_t* data_;
  size_t size_, at_ = 0, end_ = 0, rows_ = 0;
  long feature_ = 0;
  ShapefileResult& result_;
  GeometrySink& sink_;
  Coordinates shape_;
  RingSet rings_;
  std::vector<uint64_t> start_;
  WkbWriter writer_;
};

}  // namespace

ShapefileResult read_shapefile(const FileText& shp, const FileText* dbf, GeometrySink& sink) {
  ShapefileResult result;
  if (dbf) result.table = read_dbf(*dbf, result.properties);
  ShpReader reader(shp, result, sink);
  reader.read(result.table.deleted);
  if (dbf && result.table.rows != reader.rows())
    throw FileError("the .shp part has " + std::to_string(reader.rows()) +
                        " shapes and the .dbf part " + std::to_string(result.table.rows) + " rows",
                    "the parts belong to different files; fetch them again together");
  result.finish();
  return result;
}

}  // namespace ochre

// A map in sections: divided once, each handed over as the texts that a page reads, for
// R/publish-sections.R.
#include "binding-topology.h"
#include "core/packed-numbers.hpp"
#include "core/section-tree.hpp"

using Rcpp::IntegerVector;
using Rcpp::List;
using Rcpp::Named;

// One layer of a topology in sections: of each its place and kind; of each feature the middle of
// its box and how wide that is.
// [[Rcpp::export]]
List section_tree_core(const List& topology, int layer, double areas, double vertices) {
  return guarded([&]() {
    auto tree = std::make_unique<ochre::SectionTree>(
        topology_from(topology), static_cast<size_t>(layer - 1),
        ochre::SectionLimits{static_cast<size_t>(areas), static_cast<size_t>(vertices)});
    const std::vector<ochre::Section>& all = tree->sections();
    IntegerVector level(all.size()), column(all.size()), row(all.size()), kind(all.size());
    for (size_t k = 0; k < all.size(); ++k) {
      level[k] = all[k].level;
      column[k] = static_cast<int>(all[k].column);
      row[k] = static_cast<int>(all[k].row);
      kind[k] = static_cast<int>(all[k].kind);
    }
    const ochre::Box box = tree->whole();
    const auto features = tree->features();
    Rcpp::NumericVector x(features, NA_REAL), y(features, NA_REAL), size(features, NA_REAL);
    for (R_xlen_t f = 0; f < x.size(); ++f) {
      const ochre::Box b = tree->box(static_cast<size_t>(f));
      if (b.empty()) continue;
      x[f] = (b.x0 + b.x1) / 2;
      y[f] = (b.y0 + b.y1) / 2;
      size[f] = std::max(b.x1 - b.x0, b.y1 - b.y0);
    }
    return List::create(Named("level") = level, Named("column") = column, Named("row") = row,
                        Named("kind") = kind,
                        Named("box") = Rcpp::NumericVector::create(box.x0, box.y0, box.x1, box.y1),
                        Named("x") = x, Named("y") = y, Named("size") = size,
                        Named("tree") = Rcpp::XPtr<ochre::SectionTree>(tree.release(), true));
  });
}

// The shapes of a section as the contract has a topology, and the rows of their areas.
// [[Rcpp::export]]
List section_shapes_core(SEXP tree, int section) {
  return guarded([&]() {
    Rcpp::XPtr<ochre::SectionTree> from(tree);
    const ochre::SectionShapes found = from->shapes(from->sections().at(section - 1));
    const ochre::Topology& t = found.topology;
    IntegerVector rows = ints(found.features);
    return List::create(Named("rows") = rows + 1, Named("x0") = t.x0, Named("y0") = t.y0,
                        Named("step") = t.step, Named("arcs") = ochre::pack_arcs(t),
                        Named("shapes") = ochre::pack_layer(t.layers[0]));
  });
}

// The whole topology with the corners that a small picture shows.
// [[Rcpp::export]]
List section_light_core(SEXP tree) {
  return guarded([&]() {
    Rcpp::XPtr<ochre::SectionTree> from(tree);
    return topology_list(from->light(1));
  });
}

// A section as a picture, once for each vector of classes; each has so many of them.
// [[Rcpp::export]]
List section_picture_core(SEXP tree, int section, const List& classes, int count) {
  return guarded([&]() {
    Rcpp::XPtr<ochre::SectionTree> from(tree);
    const std::vector<uint32_t> cells = from->picture(from->sections().at(section - 1));
    Rcpp::CharacterVector out(classes.size());
    for (R_xlen_t k = 0; k < classes.size(); ++k)
      out[k] = ochre::pack_picture(cells, Rcpp::as<std::vector<int>>(classes[k]), count);
    return List::create(Named("cells") = out);
  });
}

// Of each cell of a packed picture 0 where nothing is, else one more than the class.
// [[Rcpp::export]]
List section_cells_core(const std::string& picture, int count) {
  return guarded(
      [&]() { return List::create(Named("cells") = ints(ochre::unpack_picture(picture, count))); });
}

// A topology without one of its layers, whose features are none, and without the arcs that only it
// has.
// [[Rcpp::export]]
List topology_without_core(const List& topology, int layer) {
  return guarded([&]() {
    return topology_list(
        ochre::without_layer(topology_from(topology), static_cast<size_t>(layer - 1)));
  });
}

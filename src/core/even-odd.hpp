// A ring that crosses itself (a bow-tie) as the simple rings of the land that it goes around an
// odd number of times. Its segments are cut where they meet; around each vertex the sides take
// turns, which tells from one place outside on which side of every piece the land lies.
#pragma once
#include "rings.hpp"

namespace ochre {

// Whether a closed ring crosses, touches or runs along itself, and where first.
bool crosses_itself(const Point* p, size_t n, Point& where);

// Shells counter-clockwise, holes clockwise.
RingSet even_odd_rings(const Point* p, size_t n);

}  // namespace ochre

// A sign of life from long loops: whoever runs the core is asked now and then whether the work
// shall go on, and ends it by throwing. Without a listener a beat costs a count. Threads beside the
// first are not heard (core/share-out.hpp).
#pragma once
#include <cstdint>

namespace ochre {

inline void (*pulse_listener)() = nullptr;
inline thread_local uint32_t pulse_beats = 0;
inline thread_local bool pulse_is_heard = true;

inline void pulse() {
  if ((++pulse_beats & 0xff) == 0 && pulse_is_heard && pulse_listener) pulse_listener();
}

}  // namespace ochre

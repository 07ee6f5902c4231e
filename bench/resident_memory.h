// How much memory a process holds.
#pragma once

#include <malloc.h>

#include <fstream>

namespace bronvel {

/// Bytes of this process that are in memory, what it has given back left out.
inline double resident_bytes() {
  malloc_trim(0);
  std::ifstream file("/proc/self/statm");
  double pages = 0, resident = 0;
  file >> pages >> resident;
  return resident * 4096;
}

}  // namespace bronvel

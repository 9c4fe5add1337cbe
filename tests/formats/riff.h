// Chunks of RIFF files, by their published layout.
#pragma once

#include <cstdint>
#include <cstring>
#include <string>

namespace tuvvo::test {

inline std::uint32_t word(const std::string& bytes, std::size_t at) {
  std::uint32_t out = 0;
  std::memcpy(&out, bytes.data() + at, 4); // RIFF is little-endian, as are the machines we run on
  return out;
}

/// A chunk of a RIFF file by its name, without its head; empty when it is not there.
inline std::string chunkOf(const std::string& riff, const char* name) {
  for (std::size_t at = 12; at + 8 <= riff.size();) {
    const std::uint32_t size = word(riff, at + 4);
    if (riff.compare(at, 4, name) == 0) return riff.substr(at + 8, size);
    at += 8 + size + size % 2;
  }
  return {};
}

} // namespace tuvvo::test

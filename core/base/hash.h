// Content hashes: the name of a sound, so that the same sound is the same thing wherever it lies.
#pragma once

#include <cstddef>
#include <string>

namespace tuvvo {

/// XXH3, 128 bit, as 32 lower-case hexadecimal digits. Tells contents apart; not a signature.
[[nodiscard]] std::string contentHash(const void* bytes, std::size_t count);

/// The same, fed piece by piece.
class ContentHasher {
public:
  ContentHasher();
  ~ContentHasher();
  ContentHasher(const ContentHasher&) = delete;
  ContentHasher& operator=(const ContentHasher&) = delete;
  void add(const void* bytes, std::size_t count);
  [[nodiscard]] std::string hex() const;

private:
  void* m_state;
};

} // namespace tuvvo

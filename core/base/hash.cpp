#include "base/hash.h"

#include <xxhash.h>

namespace tuvvo {

ContentHasher::ContentHasher() : m_state(XXH3_createState()) {
  XXH3_128bits_reset(static_cast<XXH3_state_t*>(m_state));
}

ContentHasher::~ContentHasher() { XXH3_freeState(static_cast<XXH3_state_t*>(m_state)); }

void ContentHasher::add(const void* bytes, std::size_t count) {
  XXH3_128bits_update(static_cast<XXH3_state_t*>(m_state), bytes, count);
}

std::string ContentHasher::hex() const {
  XXH128_canonical_t canonical;
  XXH128_canonicalFromHash(&canonical,
                           XXH3_128bits_digest(static_cast<const XXH3_state_t*>(m_state)));
  static constexpr char digits[] = "0123456789abcdef";
  std::string out;
  out.reserve(32);
  for (unsigned char byte : canonical.digest) {
    out += digits[byte >> 4];
    out += digits[byte & 15];
  }
  return out;
}

std::string contentHash(const void* bytes, std::size_t count) {
  ContentHasher hasher;
  hasher.add(bytes, count);
  return hasher.hex();
}

} // namespace tuvvo

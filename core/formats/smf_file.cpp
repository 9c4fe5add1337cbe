#include "formats/smf_file.h"

#include <cstring>
#include <fstream>
#include <vector>

namespace tuvvo {

namespace {

constexpr std::uintmax_t kMostBytes = 8u << 20;

bool wellFramed(const std::vector<char>& bytes) {
  const auto word = [&](std::size_t at) {
    std::uint32_t v = 0;
    for (std::size_t i = 0; i < 4; ++i) v = v << 8 | std::uint8_t(bytes[at + i]);
    return v;
  };
  if (bytes.size() < 22 || std::memcmp(bytes.data(), "MThd", 4) != 0 || word(4) != 6) return false;
  if (bytes[12] == 0 && bytes[13] == 0) return false; // a beat of no ticks
  for (std::size_t at = 14; at < bytes.size();) {
    if (at + 8 > bytes.size() || word(at + 4) > bytes.size() - at - 8) return false;
    at += 8 + word(at + 4);
  }
  return true;
}

} // namespace

Result<SmfPtr> openSmf(const std::filesystem::path& path) {
  const Error bad{"This MIDI file cannot be read", path.string(),
                  "Export it again, or choose another."};
  std::error_code code;
  const auto size = std::filesystem::file_size(path, code);
  if (code) return bad;
  if (size > kMostBytes)
    return Error{"This MIDI file is larger than 8 MB", path.string(),
                 "Export the part that you need."};
  std::ifstream in(path, std::ios::binary);
  std::vector<char> bytes(static_cast<std::size_t>(size));
  if (!in.read(bytes.data(), std::streamsize(size)) || !wellFramed(bytes)) return bad;
  SmfPtr smf(smf_load_from_memory(bytes.data(), int(bytes.size())));
  if (!smf) return bad;
  smf_rewind(smf.get());
  return smf;
}

} // namespace tuvvo

// MP3 through libmpg123 itself, so that it says nothing by itself and a damaged file is told as
// one. Inner part of audio/.
#pragma once

#include "base/result.h"

#include <cstdint>
#include <filesystem>
#include <memory>

namespace tuvvo {

/// By its first bytes: an ID3 tag (id3.org, ID3v2 section 3.1) or the eleven set bits of a frame's
/// header (ISO/IEC 11172-3, 2.4.1.3); or by its name where it is called .mp3.
[[nodiscard]] bool looksLikeMp3(const std::filesystem::path& path);

/// Reads interleaved floats, without the silence that encoders add at both ends where the file says
/// how much that is. What is damaged inside is skipped. One thread at a time.
class Mp3Reader {
public:
  /// @returns an Error for a file in which no sound can be found
  [[nodiscard]] static Result<std::shared_ptr<Mp3Reader>> open(const std::filesystem::path& path);
  ~Mp3Reader();
  Mp3Reader(const Mp3Reader&) = delete;
  Mp3Reader& operator=(const Mp3Reader&) = delete;

  [[nodiscard]] int channels() const { return m_channels; }
  [[nodiscard]] int rate() const { return m_rate; }
  [[nodiscard]] std::int64_t frames() const { return m_frames; } ///< as reckoned; 0 for not known
  /// @returns how many frames were read; 0 at the end
  std::int64_t read(float* to, std::int64_t frames);
  /// Whether the last read ended at something that is no sound, or of another shape.
  [[nodiscard]] bool failed() const { return m_failed; }

private:
  Mp3Reader() = default;
  void* m_handle = nullptr; ///< mpg123_handle
  int m_fd = -1;
  int m_channels = 0, m_rate = 0;
  std::int64_t m_frames = 0;
  bool m_failed = false;
};

} // namespace tuvvo

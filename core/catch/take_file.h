// A take that goes to disc while it is recorded, and is there whatever happens.
#pragma once

#include "audio/sound.h"
#include "base/result.h"

#include <filesystem>
#include <memory>
#include <optional>

namespace tuvvo {

/// Where a take came from and how.
struct TakeAbout {
  std::string input;    ///< what it was recorded from
  std::string when;     ///< "2026-11-26 21:45"
  std::string settings; ///< in words: way, latency taken off, effect printed
  bool operator==(const TakeAbout&) const = default;
};

/// A WAV file of 32-bit float stereo at 48 kHz (RF64, EBU Tech 3306, beyond 4 GB), whose header is
/// right again every quarter of a second: a process that is killed leaves a file that can be read
/// up to there. Beside it lies NAME.json with where it came from; it says whether the take came to
/// its end.
class TakeFile {
public:
  static constexpr double kFlushS = 0.25;
  ~TakeFile();
  TakeFile(const TakeFile&) = delete;
  TakeFile& operator=(const TakeFile&) = delete;

  /// Makes a new file in a folder, named after the time.
  static Result<std::unique_ptr<TakeFile>> begin(const std::filesystem::path& folder,
                                                 const TakeAbout& about);
  /// @returns an Error when it could not be written (the disc is full); what was written before
  ///          stays, and nothing more is taken
  Result<void> write(const float* left, const float* right, int frames);
  /// Ends it well.
  Result<void> finish();
  [[nodiscard]] const std::filesystem::path& path() const { return m_path; }
  [[nodiscard]] std::int64_t frames() const { return m_frames; }

private:
  struct File;
  TakeFile();
  Result<void> flush();

  std::filesystem::path m_path;
  TakeAbout m_about;
  std::unique_ptr<File> m_file;
  std::int64_t m_frames = 0, m_flushed = 0;
};

struct FoundTake {
  std::filesystem::path path;
  TakeAbout about;
  bool whole = true; ///< it came to its end
  Seconds length{0};
};
/// Takes of a folder, the latest first; those without a sound are left out.
[[nodiscard]] std::vector<FoundTake> takesIn(const std::filesystem::path& folder);
/// Notes that a take is known to the person; it is not found as unfinished any more.
Result<void> markWhole(const FoundTake& take);

/// How long a take of that kind may become on the disc of a folder; nothing where that is unknown.
[[nodiscard]] std::optional<Seconds> roomIn(const std::filesystem::path& folder);

} // namespace tuvvo

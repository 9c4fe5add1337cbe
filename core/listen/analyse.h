// Hearing a sound once: everything that a Listening holds.
#pragma once

#include "audio/sound.h"
#include "base/jobs.h"
#include "base/result.h"
#include "listen/analysis.h"

#include <filesystem>

namespace tuvvo {

/// Not for the audio thread; any number at once. Pure: depends on nothing but the samples.
/// @returns what was heard so far, when the job was cancelled
[[nodiscard]] Analysis analyse(const Sound& sound, JobContext& job);

/// A file heard without being held: 30 minutes of stereo take less than 300 MB.
struct HeardFile {
  Analysis heard;
  std::string hash;                  ///< of the sound, as Sound::hash() gives it
  std::vector<std::uint8_t> picture; ///< see pictureOf()
  std::vector<std::string> warnings; ///< what had to be put right to read it
};

/// @returns an Error as decodeBlocks() gives, and when the job was cancelled or the file changed
///          while it was read
Result<HeardFile> analyseFile(const std::filesystem::path& path, JobContext& job);

/// Only the hash, much quicker; the same errors.
Result<std::string> soundHashOf(const std::filesystem::path& path, JobContext& job);

} // namespace tuvvo

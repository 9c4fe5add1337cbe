// Sound in from files: WAV, AIFF, FLAC, Ogg Vorbis and Opus through libsndfile, MP3 through
// libmpg123.
#pragma once

#include "audio/sound.h"
#include "base/jobs.h"
#include "base/result.h"

#include <filesystem>
#include <functional>

namespace tuvvo {

/// A sound and what had to be put right to read it, one plain sentence each.
struct DecodedFile {
  SoundPtr sound;
  std::vector<std::string> warnings;
};

/// What a file may be at most; beyond it the file is refused with a message.
struct DecodeLimits {
  Seconds duration{3 * 3600};                   ///< three hours, at any rate
  std::int64_t samples = std::int64_t(1) << 31; ///< after folding to stereo: 8 GiB
  std::int64_t bytes = std::int64_t(20) << 30;  ///< of the file
};

/// What a reader is told before the first block.
struct SoundShape {
  Hertz rate{0};
  int channels = 1;        ///< 1 or 2, after folding
  std::int64_t frames = 0; ///< as promised, no more than the file's size can hold; may be wrong
  std::int64_t bytes = 0;  ///< of the file
};

/// Takes a file's blocks one after the other; left and right are the same span for mono.
struct BlockTaker {
  std::function<void(const SoundShape&)> begin;
  /// @returns whether it wants more; reading ends well where it does not
  std::function<bool(std::span<const float> left, std::span<const float> right)> take;
};

/// Reads a file block by block, for what is too long to be held: the same folding, limits and
/// warnings as decodeFile().
/// @returns warnings, or an Error as decodeFile() gives
Result<std::vector<std::string>> decodeBlocks(const std::filesystem::path& path, JobContext& job,
                                              const BlockTaker& taker,
                                              const DecodeLimits& limits = {});

/// Reads a whole file. Three to eight channels are folded to stereo (ITU-R BS.775-3, annex 4:
/// centre and surrounds at −3 dB; the low-frequency channel is left out). A file that ends early
/// is read as far as it goes; samples that are no numbers, or louder than kLoudestSample, become
/// silence; all of this is warned of.
///
/// Not for the audio thread; any number of threads at once.
/// @param most  what lies further from the beginning is left out
/// @returns an Error for a file that is missing, empty, no sound, outside 8 to 192 kHz, of more
///          than eight channels or longer than the limits, and when the job was cancelled
Result<DecodedFile> decodeFile(const std::filesystem::path& path, JobContext& job,
                               const DecodeLimits& limits = {}, Seconds most = Seconds(1e9));

} // namespace tuvvo

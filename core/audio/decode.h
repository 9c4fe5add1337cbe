// Sound in from files: WAV, AIFF, FLAC, Ogg Vorbis, Opus and MP3 through libsndfile.
#pragma once

#include "audio/sound.h"
#include "base/jobs.h"
#include "base/result.h"

#include <filesystem>

namespace tuvvo {

/// A sound and what had to be put right to read it, one plain sentence each.
struct DecodedFile {
  SoundPtr sound;
  std::vector<std::string> warnings;
};

/// What a file may be at most; beyond it the file is refused with a message.
struct DecodeLimits {
  std::int64_t frames = std::int64_t(192000) * 3600 * 3; ///< three hours at 192 kHz
  std::int64_t samples = std::int64_t(1) << 31;          ///< after folding to stereo: 8 GiB
};

/// Reads a whole file. Three to eight channels are folded to stereo (ITU-R BS.775-3, annex 4:
/// centre and surrounds at −3 dB; the low-frequency channel is left out). A file that ends early
/// is read as far as it goes; samples that are no numbers become silence; both are warned of.
///
/// Not for the audio thread; any number of threads at once.
/// @returns an Error for a file that is missing, empty, no sound, outside 8 to 192 kHz, of more
///          than eight channels or longer than the limits, and when the job was cancelled
Result<DecodedFile> decodeFile(const std::filesystem::path& path, JobContext& job,
                               const DecodeLimits& limits = {});

} // namespace tuvvo

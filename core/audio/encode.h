// Sound out to files, through libsndfile.
#pragma once

#include "audio/sound.h"
#include "base/files.h"

#include <filesystem>
#include <optional>

namespace tuvvo {

enum class FileFormat { Wav, Flac, Ogg, Opus, Mp3 };
enum class SampleFormat { Int16, Int24, Float32 };

/// Places written into a file for other programs.
struct FileMarks {
  struct Cue {
    Frames at;
    std::string name;
  };
  std::vector<Cue> cues;                         ///< in rising order
  std::optional<std::pair<Frames, Frames>> loop; ///< half open
  int rootNote = 60;                             ///< the MIDI note at which the sound is as it is
  [[nodiscard]] bool any() const { return !cues.empty() || loop; }
};

/// The format that a file name's ending asks for (.wav .flac .ogg .opus .mp3, any case).
Result<FileFormat> formatFromName(const std::filesystem::path& path);

/// Whether every sample is a whole number of 24-bit steps inside ±1, so that FLAC holds it exactly.
[[nodiscard]] bool fitsIn24Bits(const Sound& sound);

/// How a sound is written to its file.
struct EncodeOptions {
  FileFormat format = FileFormat::Wav;
  SampleFormat samples = SampleFormat::Int24;
  FileMarks marks{};
  Replace replace = Replace::Yes; ///< whether it may take the place of a file that is there
  unsigned mode = 0666;           ///< permissions of a new file, before the process's mask
};

/// Writes a sound, to a new file that is moved into place when it is whole: its bytes are counted,
/// synced, and read back to the end first. What has no loss must come back sample for sample, the
/// other formats in their whole length. Until then, and on any error, a file of that name stays as
/// it was.
///
/// 16-bit files get triangular dither of two steps' width (Lipshitz, Wannamaker, Vanderkooy 1992)
/// from a fixed seed, so that the same sound gives the same file; 24-bit files are rounded, so that
/// a 24-bit source survives unchanged. Samples beyond full scale are held at it in integer files.
/// Ogg, Opus and MP3 take no notice of the sample format; FLAC has no float.
/// Opus resamples to 48 kHz first if it must.
///
/// Marks: WAV gets "cue " and "smpl" chunks (up to 100 cues). FLAC gets a cue sheet that is no
/// disc's (up to 254 tracks, each with one index) and the comments LOOPSTART and LOOPLENGTH, in
/// frames. The other formats take no notice of them.
Result<void> encodeFile(const Sound& sound, const std::filesystem::path& path,
                        const EncodeOptions& options);

} // namespace tuvvo

// Printing: the engine run faster than real time.
#pragma once

#include "audio/encode.h"
#include "base/jobs.h"
#include "base/outputs.h"
#include "base/result.h"
#include "play/score.h"

#include <filesystem>

namespace tuvvo {

struct PrintOptions {
  Seconds ring{0};                ///< how long the last sounds may ring past the end; 0 to 30
  bool limiter = true;            ///< off for stems, so that they add up to the mix
  BakeCache* bakeCache = nullptr; ///< where baked sound is kept; null: baked for this print alone
};

/// The song with all that its keys need baked before it returns.
/// @param options  its `baked` is not asked
Result<Score> bakedSong(const Project& project, CompileOptions options, BakeCache& bakeCache,
                        JobContext& job);

/// The score from its first frame to its last and the ring after it: exactly length + ring frames
/// at the engine's rate. The same samples as the live engine gives, without its look-ahead delay;
/// a sound cut off by the end is faded over its last 5 ms. Not for the audio thread.
/// @returns an Error when the job was cancelled or there is nothing to print
Result<SoundPtr> print(const Score& score, const PrintOptions& options, JobContext& job);

struct PrintFile {
  std::filesystem::path path;
  FileFormat format = FileFormat::Wav;
  SampleFormat samples = SampleFormat::Int24;
  Hertz rate{48000};
};

/// Prints the song and writes it. The name is claimed before anything is reckoned.
Result<SoundPtr> printSong(const Project& project, const PrintFile& file,
                           const PrintOptions& options, Outputs& outputs, JobContext& job);

struct PrintedStem {
  std::string part;
  std::filesystem::path path;
  std::string warning; ///< not empty: what had to be done otherwise
};

/// One file a part in a folder (made if it is not there), all as long as the song. A stem that
/// would pass full scale in an integer file is written as 32-bit float instead, and says so.
Result<std::vector<PrintedStem>> printStems(const Project& project,
                                            const std::filesystem::path& folder,
                                            const PrintFile& like, const PrintOptions& options,
                                            Outputs& outputs, JobContext& job);
/// The files that printStems() may write, for asking before any is written over: a stem that must
/// become a float file stands there under both names.
[[nodiscard]] std::vector<std::filesystem::path>
stemFiles(const Project& project, const std::filesystem::path& folder, FileFormat format);

/// The sounds that a project came from are protected from a run.
void protectSources(const Project& project, Outputs& outputs);

inline constexpr std::size_t kLongestFileName = 200; ///< bytes without the ending; file systems
                                                     ///< take 255
/// A file name without characters that file systems dislike, cut between characters; "untitled" if
/// nothing is left.
[[nodiscard]] std::string fileNameOf(const std::string& name,
                                     std::size_t mostBytes = kLongestFileName);

} // namespace tuvvo

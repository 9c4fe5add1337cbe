// Slices as files for other programs and devices.
#pragma once

#include "audio/encode.h"
#include "base/jobs.h"
#include "base/outputs.h"
#include "play/score.h"

namespace tuvvo {

struct SlicesOut {
  std::filesystem::path folder;        ///< made if it is not there
  FileFormat format = FileFormat::Wav; ///< Wav or Flac
  SampleFormat samples = SampleFormat::Int24;
  bool asTheySound = false; ///< shape, treatments, level, pan, envelope and filters printed into
                            ///< them at the beat's tempo; else as they were cut
  bool instrument = true;   ///< an SFZ file beside them
  bool whole = true;        ///< the whole source, uncut, with a cue at every slice
};

struct SliceFile {
  std::filesystem::path path;
  Id key = 0;        ///< 0 for the instrument and the whole source
  Frames start, end; ///< in the source
};

/// Writes the keys that play cuts of a source, in the order of the deck. Files are called by
/// source, number, slice, tempo and key: "pier nine break 03 1.2 snare 96bpm.wav". A slice that
/// loops carries its loop points; written as it sounds, its decay is left to the instrument. The
/// instrument puts them on
/// neighbouring keys from 36 (C2) up with their level, pan, tune, envelope, filters, loop, choke
/// and reach; it uses opcodes of SFZ version 1, and of version 2 for a second filter and for the
/// crossfade of a loop. All names are claimed before the first file is written.
/// @returns what was written, the whole source and the instrument last; an Error for the first file
///          that could not be written: those before it stay
Result<std::vector<SliceFile>> writeSlices(const Project& project, Id source,
                                           const SlicesOut& options, Outputs& outputs,
                                           JobContext& job);

/// The files that writeSlices() writes, for asking before any is written over. Numbers stand before
/// whatever may be cut off from a long name, so that no two are the same.
[[nodiscard]] std::vector<std::filesystem::path> sliceFiles(const Project& project, Id source,
                                                            const SlicesOut& options);

/// "96bpm F#m", as far as both are known; file names end in it.
[[nodiscard]] std::string tempoAndKeyName(std::optional<Bpm> tempo, std::optional<KeyName> key);

} // namespace tuvvo

// Cue and loop points in files. Inner part of audio/.
#pragma once

#include "audio/encode.h"
#include "base/new_file.h"

#include <sndfile.h>

namespace tuvvo {

/// Before the first sample is written.
void markWav(SNDFILE* file, const FileMarks& marks);
/// Copies a FLAC file with the marks in it. @returns false when it could not be read or written
[[nodiscard]] bool markFlac(NewFile& from, NewFile& to, const FileMarks& marks, Frames frames);

} // namespace tuvvo

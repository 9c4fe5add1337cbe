// Cue and loop points in files. Inner part of audio/.
#pragma once

#include "audio/encode.h"

#include <sndfile.h>

namespace tuvvo {

/// Before the first sample is written.
void markWav(SNDFILE* file, const FileMarks& marks);
/// After the file was closed. @returns false when it could not be rewritten
[[nodiscard]] bool markFlac(const std::string& path, const FileMarks& marks, Frames frames);

} // namespace tuvvo

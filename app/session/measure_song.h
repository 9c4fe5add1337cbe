// What the song measures: loudness, energy by bar, where each part lies in the spectrum.
#pragma once

#include "session/session.h"

namespace tuvvo {

/// Prints the song and each part alone, without writing anything. For a job.
[[nodiscard]] Session::SongMeasure measureSong(const Project& project, Bakery& bakery,
                                               JobContext& job);

} // namespace tuvvo

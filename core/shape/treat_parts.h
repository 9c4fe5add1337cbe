// Single treatments. Inner part of shape/.
#pragma once

#include "shape/treat.h"

namespace tuvvo {

void alternate(Channels& sound, const treat::Alternate& what, const TreatFrame& frame);
void chop(Channels& sound, const treat::Chop& what, const TreatFrame& frame);
void stutter(Channels& sound, const treat::Stutter& what, const TreatFrame& frame);
void slowDown(Channels& sound, const treat::SlowDown& what, const TreatFrame& frame);
void startUp(Channels& sound, const treat::StartUp& what, const TreatFrame& frame);
void swell(Channels& sound, const treat::Swell& what, const TreatFrame& frame);

/// Frames that a stutter's repeats take, and that a chop's pieces do.
std::size_t stuttered(const treat::Stutter& what, const TreatFrame& frame);
std::size_t choppedFrames(std::size_t frames, const treat::Chop& what, const TreatFrame& frame);

} // namespace tuvvo

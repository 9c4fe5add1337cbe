// Single treatments. Inner part of shape/.
#pragma once

#include "shape/treat.h"

namespace tuvvo {

void alternate(Channels& sound, const Treatment& treatment, const TreatFrame& frame);
void chop(Channels& sound, const Treatment& treatment, const TreatFrame& frame);
void stutter(Channels& sound, const Treatment& treatment, const TreatFrame& frame);
void slowDown(Channels& sound, const Treatment& treatment, const TreatFrame& frame);
void startUp(Channels& sound, const Treatment& treatment, const TreatFrame& frame);
void swell(Channels& sound, const Treatment& treatment, const TreatFrame& frame);

/// Frames that a stutter's repeats take, and that a chop's pieces do.
std::size_t stuttered(const Treatment& treatment, const TreatFrame& frame);
std::size_t choppedFrames(std::size_t frames, const Treatment& treatment, const TreatFrame& frame);

} // namespace tuvvo

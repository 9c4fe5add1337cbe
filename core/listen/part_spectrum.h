// Where a sound lies in the spectrum, for pictures.
#pragma once

#include "audio/sound.h"

namespace tuvvo {

inline constexpr int kSpectrumBands = 30; ///< third octaves from 25 Hz to 20 kHz

/// Mean power by third octave (centres as in IEC 61260, base ten), in dB: a sine of full scale is 0
/// (AES17); −120 for nothing.
[[nodiscard]] std::vector<float> partSpectrum(const Sound& sound);

} // namespace tuvvo

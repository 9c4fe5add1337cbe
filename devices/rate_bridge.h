// Playing the engine's 48 kHz on a device of another rate.
#pragma once

#include "audio/sinc_bank.h"
#include "devices/sound_device.h"

#include <vector>

namespace tuvvo {

/// Asks a source at one rate and gives at another, by the engine's own interpolator. Real time
/// after construction: no allocation, lock or wait.
class RateBridge {
public:
  /// @param most  frames that may be asked for at once
  RateBridge(FillSound source, Hertz from, Hertz to, int most);
  void fill(float* left, float* right, int frames);

private:
  FillSound m_source;
  double m_step;
  const SincBank::Kernel& m_kernel;
  std::vector<float> m_left, m_right;
  int m_held = 0;     ///< frames in the buffers
  double m_place = 0; ///< of the next output, in them
};

} // namespace tuvvo

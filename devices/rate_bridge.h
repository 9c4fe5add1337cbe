// The engine's 48 kHz on a device of another rate, out and in.
#pragma once

#include "audio/sinc_bank.h"
#include "devices/sound_device.h"

#include <vector>

namespace tuvvo {

/// Asks a source at one rate and gives at another, by the engine's own interpolator; what comes in
/// goes the other way, later by the reach of both kernels. Real time after construction: no
/// allocation, lock or wait.
class RateBridge {
public:
  /// @param most  frames that may be asked for at once
  RateBridge(ProcessSound source, Hertz from, Hertz to, int most);
  void fill(const SoundBlock& block);

private:
  struct Stereo {
    std::vector<float> left, right;
    int held = 0;     ///< frames
    double place = 0; ///< of the next one that is made, in them
    explicit Stereo(std::size_t size) : left(size), right(size) {}
    void drop();
  };
  void ask(int frames, bool input);

  ProcessSound m_source;
  double m_step;                             ///< engine frames for one of the device
  SincBank m_bank{SincBank::Make::AsNeeded}; ///< made in the constructor, read in fill()
  const SincBank::Kernel& m_outKernel;
  const SincBank::Kernel& m_inKernel;
  Stereo m_out, m_in;
  std::vector<float> m_inLeft, m_inRight; ///< at the engine's rate
};

} // namespace tuvvo

// Small tools for making the demo's sounds: a stereo buffer, filters, a room, a worn disc.
#pragma once

#include "audio/sound.h"
#include "base/random.h"

#include <cmath>
#include <functional>
#include <vector>

namespace tuvvo::demo {

inline constexpr double kRate = 48000;

struct Buffer {
  std::vector<double> left, right;
  explicit Buffer(double seconds = 0)
      : left(std::size_t(seconds * kRate), 0.0), right(left.size(), 0.0) {}
  [[nodiscard]] std::size_t size() const { return left.size(); }
  void add(const Buffer& other, double atS, double gain = 1, double pan = 0);
  void each(const std::function<double(double)>& shape);
  [[nodiscard]] double peak() const;
  void normalise(double peak);
  /// Rounded to 24-bit steps, so that FLAC holds it exactly.
  [[nodiscard]] SoundPtr sound(bool mono = false) const;
};

/// Second-order sections by the widely used cookbook formulas (R. Bristow-Johnson).
class Biquad {
public:
  static Biquad lowPass(double hz, double q = 0.7071);
  static Biquad highPass(double hz, double q = 0.7071);
  static Biquad bandPass(double hz, double q);
  static Biquad peak(double hz, double q, double db);
  double run(double x);

private:
  double b0 = 1, b1 = 0, b2 = 0, a1 = 0, a2 = 0, z1 = 0, z2 = 0;
};
void filter(Buffer& buffer, const Biquad& section);

/// A feedback delay network of eight lines (Jot & Chaigne 1991): a small hard room or a hall.
Buffer room(const Buffer& dry, double seconds, double size, double brightHz, std::uint64_t seed);

/// Soft saturation; drive 1 is gentle.
void saturate(Buffer& buffer, double drive);

struct DiscWear {
  double cents = 0;    ///< off speed
  double wow = 0.0008; ///< depth of speed at once a turn
  double flutter = 0.0002;
  double lowHz = 70, highHz = 9000;
  double crackle = 1; ///< 0 none
  double hiss = 0.0006;
  std::uint64_t seed = 1;
};
/// Plays a buffer as from a worn disc. Wow closes over the buffer, so the length is exactly that of
/// the speed.
Buffer worn(const Buffer& clean, const DiscWear& wear);

} // namespace tuvvo::demo

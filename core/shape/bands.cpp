#include "shape/bands.h"

#include "audio/filter_section.h"

namespace tuvvo {

namespace {

void run(const FilterSection& f, Samples& samples) {
  double z1 = 0, z2 = 0;
  for (float& sample : samples) {
    const double x = double(sample), y = f.b0 * x + z1;
    z1 = f.b1 * x - f.a1 * y + z2;
    z2 = f.b2 * x - f.a2 * y;
    sample = float(y);
  }
}

} // namespace

void keepBand(Channels& sound, BandKept keep, Hertz low, Hertz high, Hertz rate) {
  for (auto& channel : sound) {
    const auto twice = [&](Pass pass, Hertz at) {
      const FilterSection section = filterSection(pass, at, rate);
      run(section, channel);
      run(section, channel);
    };
    if (keep == BandKept::Low) {
      twice(Pass::Low, low);
      run(filterSection(Pass::All, high, rate),
          channel); // what both ways of the upper crossing add up to
      continue;
    }
    twice(Pass::High, low);
    twice(keep == BandKept::Middle ? Pass::Low : Pass::High, high);
  }
}

void keepSides(Channels& sound, bool sides) {
  for (std::size_t i = 0; i < sound[0].size(); ++i) {
    const float l = sound[0][i], r = sound[1][i];
    const float kept = (sides ? l - r : l + r) / 2;
    sound[0][i] = kept;
    sound[1][i] = sides ? -kept : kept;
  }
}

} // namespace tuvvo

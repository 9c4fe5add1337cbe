// The figures of a key's sound: what each slide says, reads and sets.
#include "keys/sound_panel.h"

#include "model/key_parameters.h"
#include "widgets/parameter_text.h"

#include <cmath>

namespace tuvvo {

namespace {

SoundPanel::Group groupOf(const KeyParameter& parameter) {
  switch (parameter.group) {
  case KeyParameter::Group::Level:
    break;
  case KeyParameter::Group::Envelope:
    return SoundPanel::Group::Envelope;
  case KeyParameter::Group::Filter:
    return SoundPanel::Group::Filter;
  case KeyParameter::Group::Layer:
    return SoundPanel::Group::Layers;
  }
  return SoundPanel::Group::Level;
}

/// Figures that are said in words.
std::function<QString(double)> wordsFor(std::string_view id) {
  if (id == "key.pan")
    return [](double v) {
      return v == 0  ? SoundPanel::tr("middle")
             : v < 0 ? SoundPanel::tr("left %1").arg(-v)
                     : SoundPanel::tr("right %1").arg(v);
    };
  if (id.ends_with("-bend"))
    return [](double v) {
      return v == 0  ? SoundPanel::tr("straight")
             : v > 0 ? SoundPanel::tr("quick first %1").arg(v)
                     : SoundPanel::tr("slow first %1").arg(-v);
    };
  if (id.ends_with(".high-pass") || id.ends_with(".low-pass")) {
    const double off = id.ends_with(".high-pass") ? 20 : 20'000;
    return [off](double v) {
      if (std::abs(v - off) < off * 0.02) return SoundPanel::tr("none");
      return v < 1000 ? SoundPanel::tr("%1 Hz").arg(v, 0, 'f', 0)
                      : SoundPanel::tr("%1 kHz").arg(v / 1000, 0, 'f', 2);
    };
  }
  if (id == "layer.decay")
    return [](double v) {
      return v <= 0 ? SoundPanel::tr("none") : SoundPanel::tr("%1 ms").arg(v, 0, 'f', 0);
    };
  return {};
}

} // namespace

std::vector<SoundPanel::Field> SoundPanel::fields() const {
  std::vector<Field> out;
  for (const auto& each : keyParameters())
    if (each.parameter.words.empty()) // what is on or off has a tick
      out.push_back({groupOf(each), &each, nameOf(each.parameter), wordsFor(each.parameter.id)});
  return out;
}

} // namespace tuvvo

#include "listen/spelling.h"

#include "base/convert.h"

namespace tuvvo {

std::string nameOf(KeyName key) { return spelt(key.tonic, key) + (key.minor ? "m" : ""); }

std::optional<KeyName> keyFromName(std::string_view written) {
  const std::string plain = withoutSigns(written);
  std::string_view name = plain;
  if (name.empty()) return std::nullopt;
  static constexpr std::string_view letters = "C D EF G A B";
  const char letter = name[0] >= 'a' && name[0] <= 'g' ? char(name[0] - 'a' + 'A') : name[0];
  const auto place = letter == ' ' ? std::string_view::npos : letters.find(letter);
  if (place == std::string_view::npos) return std::nullopt;
  int tonic = int(place);
  name.remove_prefix(1);
  if (!name.empty() && (name[0] == '#' || name[0] == 'b')) {
    tonic = (tonic + (name[0] == '#' ? 1 : 11)) % 12;
    name.remove_prefix(1);
  }
  if (name.empty() || name == "maj" || name == " major") return KeyName{tonic, false};
  if (name == "m" || name == "min" || name == " minor") return KeyName{tonic, true};
  return std::nullopt;
}

KeyName transposed(KeyName key, int semitones) {
  return {((key.tonic + semitones) % 12 + 12) % 12, key.minor};
}

std::string noteNameOf(Hertz pitch) {
  const double note = midiNoteOf(pitch);
  const int nearest = toNearest<int>(note), cents = toNearest<int>((note - nearest) * 100);
  std::string out = speltNote(nearest, {});
  if (std::abs(cents) >= 3) {
    char text[16];
    std::snprintf(text, sizeof text, " %+d ct", cents);
    out += text;
  }
  return out;
}

std::string meterName(const Analysis& heard) {
  return heard.compound ? std::to_string(3 * heard.meter) + "/8"
                        : std::to_string(heard.meter) + "/4";
}

std::string_view nameOf(SoundKind kind) {
  constexpr std::array<std::string_view, kSoundKinds> names{"one-shot", "break",           "loop",
                                                            "passage",  "field recording", "voice"};
  return names[std::size_t(kind)];
}

std::string_view nameOf(Drum drum) {
  constexpr std::array<std::string_view, kDrums> names{"closed hat", "open hat", "ride", "crash",
                                                       "tom",        "clap",     "rim",  "shaker"};
  return names[std::size_t(drum)];
}

std::string_view nameOf(const Onset& onset) {
  for (HitClass hit : onset.hits) {
    for (Drum drum : onset.drums)
      if (classOf(drum) == hit && drum != Drum::ClosedHat) // which is just a hat
        return nameOf(drum);
    if (hit != HitClass::Other) return nameOf(hit);
  }
  return {};
}

std::string_view nameOf(HitClass hit) {
  switch (hit) {
  case HitClass::Kick:
    return "kick";
  case HitClass::Snare:
    return "snare";
  case HitClass::Hat:
    return "hat";
  case HitClass::Other:
    break;
  }
  return "other";
}

} // namespace tuvvo

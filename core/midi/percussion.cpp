#include "midi/percussion.h"

#include <array>

namespace tuvvo {

namespace {

struct Drum {
  std::string_view name;
  DeckSpot spot;
};
constexpr int kFirst = 35;
constexpr Row A = Row::Air, B = Row::Body, F = Row::Floor;
// Names by General MIDI System Level 1; places are ours.
constexpr std::array<Drum, 47> kDrums{{{"Acoustic Bass Drum", {F, 1}},
                                       {"Bass Drum 1", {F, 0}},
                                       {"Side Stick", {B, 2}},
                                       {"Acoustic Snare", {B, 0}},
                                       {"Hand Clap", {B, 3}},
                                       {"Electric Snare", {B, 1}},
                                       {"Low Floor Tom", {F, 5}},
                                       {"Closed Hi-Hat", {A, 0}},
                                       {"High Floor Tom", {F, 6}},
                                       {"Pedal Hi-Hat", {A, 1}},
                                       {"Low Tom", {F, 7}},
                                       {"Open Hi-Hat", {A, 2}},
                                       {"Low-Mid Tom", {B, 5}},
                                       {"Hi-Mid Tom", {B, 6}},
                                       {"Crash Cymbal 1", {A, 6}},
                                       {"High Tom", {B, 7}},
                                       {"Ride Cymbal 1", {A, 5}},
                                       {"Chinese Cymbal", {A, 7}},
                                       {"Ride Bell", {A, 5}},
                                       {"Tambourine", {A, 4}},
                                       {"Splash Cymbal", {A, 7}},
                                       {"Cowbell", {B, 7}},
                                       {"Crash Cymbal 2", {A, 6}},
                                       {"Vibraslap", {B, 6}},
                                       {"Ride Cymbal 2", {A, 5}},
                                       {"Hi Bongo", {B, 5}},
                                       {"Low Bongo", {B, 4}},
                                       {"Mute Hi Conga", {B, 4}},
                                       {"Open Hi Conga", {B, 4}},
                                       {"Low Conga", {B, 4}},
                                       {"High Timbale", {B, 6}},
                                       {"Low Timbale", {B, 6}},
                                       {"High Agogo", {A, 7}},
                                       {"Low Agogo", {A, 7}},
                                       {"Cabasa", {A, 3}},
                                       {"Maracas", {A, 3}},
                                       {"Short Whistle", {A, 7}},
                                       {"Long Whistle", {A, 7}},
                                       {"Short Guiro", {B, 5}},
                                       {"Long Guiro", {B, 5}},
                                       {"Claves", {B, 2}},
                                       {"Hi Wood Block", {B, 5}},
                                       {"Low Wood Block", {B, 5}},
                                       {"Mute Cuica", {B, 7}},
                                       {"Open Cuica", {B, 7}},
                                       {"Mute Triangle", {A, 7}},
                                       {"Open Triangle", {A, 7}}}};

const Drum* drumOf(int note) {
  const int at = note - kFirst;
  return at >= 0 && at < int(kDrums.size()) ? &kDrums[std::size_t(at)] : nullptr;
}

} // namespace

std::optional<DeckSpot> percussionSpot(int note) {
  const Drum* drum = drumOf(note);
  return drum ? std::optional(drum->spot) : std::nullopt;
}

std::string_view percussionName(int note) {
  const Drum* drum = drumOf(note);
  return drum ? drum->name : std::string_view();
}

std::optional<DeckSpot> deckSpot(int note) {
  const int at = note - 36;
  if (at < 0 || at >= 4 * kColumns) return std::nullopt;
  return DeckSpot{Row(int(Row::Floor) - at / kColumns), at % kColumns};
}

} // namespace tuvvo

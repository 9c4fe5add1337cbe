#include "listen/chord_name.h"

#include "listen/spelling.h"

#include <algorithm>

namespace tuvvo {

namespace {

/// Other ways in which endings are written (common practice, no source).
struct OtherEnding {
  std::string_view written, ending;
};
constexpr std::array kOtherEndings{OtherEnding{"M", ""},
                                   OtherEnding{"maj", ""},
                                   OtherEnding{"min", "m"},
                                   OtherEnding{"-", "m"},
                                   OtherEnding{"o", "dim"},
                                   OtherEnding{"\u00B0", "dim"},
                                   OtherEnding{"+", "aug"},
                                   OtherEnding{"+5", "aug"},
                                   OtherEnding{"sus", "sus4"},
                                   OtherEnding{"M7", "maj7"},
                                   OtherEnding{"Maj7", "maj7"},
                                   OtherEnding{"ma7", "maj7"},
                                   OtherEnding{"\u0394", "maj7"},
                                   OtherEnding{"\u03947", "maj7"},
                                   OtherEnding{"min7", "m7"},
                                   OtherEnding{"mi7", "m7"},
                                   OtherEnding{"-7", "m7"},
                                   OtherEnding{"dom", "7"},
                                   OtherEnding{"dom7", "7"},
                                   OtherEnding{"M6", "6"},
                                   OtherEnding{"add6", "6"},
                                   OtherEnding{"add13", "6"},
                                   OtherEnding{"min6", "m6"},
                                   OtherEnding{"-6", "m6"},
                                   OtherEnding{"69", "6/9"},
                                   OtherEnding{"M69", "6/9"},
                                   OtherEnding{"6add9", "6/9"},
                                   OtherEnding{"add2", "add9"},
                                   OtherEnding{"Madd9", "add9"},
                                   OtherEnding{"madd2", "madd9"},
                                   OtherEnding{"\u00F8", "m7b5"},
                                   OtherEnding{"\u00F87", "m7b5"},
                                   OtherEnding{"-7b5", "m7b5"},
                                   OtherEnding{"min7b5", "m7b5"},
                                   OtherEnding{"m7(b5)", "m7b5"},
                                   OtherEnding{"o7", "dim7"},
                                   OtherEnding{"\u00B07", "dim7"},
                                   OtherEnding{"mM7", "mmaj7"},
                                   OtherEnding{"mMaj7", "mmaj7"},
                                   OtherEnding{"m/ma7", "mmaj7"},
                                   OtherEnding{"m/maj7", "mmaj7"},
                                   OtherEnding{"m/M7", "mmaj7"},
                                   OtherEnding{"m(maj7)", "mmaj7"},
                                   OtherEnding{"m\u0394", "mmaj7"},
                                   OtherEnding{"-\u03947", "mmaj7"},
                                   OtherEnding{"7sus", "7sus4"},
                                   OtherEnding{"min9", "m9"},
                                   OtherEnding{"-9", "m9"},
                                   OtherEnding{"M9", "maj9"},
                                   OtherEnding{"Maj9", "maj9"},
                                   OtherEnding{"\u03949", "maj9"},
                                   OtherEnding{"9sus", "9sus4"},
                                   OtherEnding{"min11", "m11"},
                                   OtherEnding{"-11", "m11"},
                                   OtherEnding{"min13", "m13"},
                                   OtherEnding{"-13", "m13"}};

const ChordKind* kindOfEnding(std::string_view ending) {
  for (const auto& other : kOtherEndings)
    if (other.written == ending) ending = other.ending;
  for (const auto& kind : kChordKinds)
    if (kind.ending == ending) return &kind;
  return nullptr;
}

/// The length of the note's name that a text begins with.
std::size_t noteLetters(std::string_view text) {
  return text.size() > 1 && (text[1] == '#' || text[1] == 'b') ? 2 : 1;
}

} // namespace

std::span<const int> ChordKind::tones() const {
  const auto end = std::find(steps.begin(), steps.end(), -1);
  return {steps.data(), std::size_t(end - steps.begin())};
}

std::optional<int> ChordKind::third() const {
  for (int step : tones())
    if (step == 3 || step == 4) return step;
  return std::nullopt;
}

int ChordKind::fifth() const {
  for (int step : tones())
    if (step >= 6 && step <= 8) return step;
  return 7;
}

std::optional<ChordName> chordFromName(std::string_view written) {
  const std::string plain = withoutSigns(written);
  const std::string_view name = plain;
  const std::size_t letters = noteLetters(name);
  const auto root = keyFromName(name.substr(0, letters));
  if (!root) return std::nullopt;
  const std::string_view rest = name.substr(letters);
  if (const ChordKind* kind = kindOfEnding(rest)) return ChordName{root->tonic, kind};
  const auto slash = rest.rfind('/');
  if (slash == std::string_view::npos) return std::nullopt;
  const ChordKind* kind = kindOfEnding(rest.substr(0, slash));
  const std::string_view low = rest.substr(slash + 1);
  const auto bass = keyFromName(low);
  if (!kind || !bass || low.size() != noteLetters(low)) return std::nullopt;
  return ChordName{root->tonic, kind, bass->tonic == root->tonic ? -1 : bass->tonic};
}

std::optional<bool> ChordName::minor() const {
  const auto third = kind->third();
  if (!third || kind->fifth() != 7) return std::nullopt;
  return *third == 3;
}

std::vector<int> ChordName::tones() const {
  std::vector<int> out;
  for (int step : kind->tones()) out.push_back((root + step) % 12);
  if (bass >= 0 && std::find(out.begin(), out.end(), bass) == out.end()) out.push_back(bass);
  return out;
}

} // namespace tuvvo

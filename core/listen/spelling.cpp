#include "listen/spelling.h"

#include <algorithm>
#include <charconv>

namespace tuvvo {

namespace {

using Names = std::array<const char*, 12>;
constexpr Names kSharps{"C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"};
constexpr Names kFlats{"C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab", "A", "Bb", "B"};
constexpr Names kUsual{"C", "C#", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B"};
constexpr std::string_view kFlatSign = "\u266D", kSharpSign = "\u266F";

constexpr int pitchClassOf(int note) { return (note % 12 + 12) % 12; }

/// Keys on the flat side of the circle of fifths, by their major: F, Bb, Eb, Ab, Db; and Eb minor.
bool hasFlats(KeyName key) {
  const int major = pitchClassOf(key.tonic + (key.minor ? 3 : 0));
  constexpr std::array<int, 5> flat{5, 10, 3, 8, 1};
  return std::find(flat.begin(), flat.end(), major) != flat.end() || (key.minor && major == 6);
}

bool isWord(char c) {
  return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9');
}

/// What can stand after the accidental of a root.
bool endsARoot(std::string_view rest) {
  if (rest.empty() || !isWord(rest[0]) || (rest[0] >= '0' && rest[0] <= '9')) return true;
  for (const char* ending : {"m", "dim", "aug", "sus", "add"})
    if (rest.starts_with(ending)) return true;
  return false;
}

} // namespace

std::string spelt(int pitchClass, const std::optional<KeyName>& key) {
  const int note = pitchClassOf(pitchClass);
  // With six accidentals one of them is before a white key: E# in F# major, Cb in Eb minor.
  if (key && !key->minor && key->tonic == 6 && note == 5) return "E#";
  if (key && key->minor && key->tonic == 3 && note == 11) return "Cb";
  const Names& names = !key ? kUsual : hasFlats(*key) ? kFlats : kSharps;
  return names[std::size_t(note)];
}

std::string spelt(const ChordName& chord, const std::optional<KeyName>& key) {
  return spelt(chord.root, key) + std::string(chord.kind->ending) +
         (chord.bass < 0 ? "" : "/" + spelt(chord.bass, key));
}

std::string speltNote(int note, const std::optional<KeyName>& key) {
  const std::string name = spelt(note, key);
  // Octaves begin at C: the flat of a C belongs to its C's.
  const int octave = (note - pitchClassOf(note)) / 12 - 1 + (name == "Cb" ? 1 : 0);
  return name + std::to_string(octave);
}

std::optional<int> noteFromName(std::string_view name) {
  const std::string plain = withoutSigns(name);
  const std::size_t letters = plain.size() > 1 && (plain[1] == '#' || plain[1] == 'b') ? 2 : 1;
  const auto tone = keyFromName(std::string_view(plain).substr(0, letters));
  if (!tone || plain.size() <= letters) return std::nullopt;
  int octave = 0;
  const char *first = plain.data() + letters, *last = plain.data() + plain.size();
  const auto [end, wrong] = std::from_chars(first, last, octave);
  if (wrong != std::errc() || end != last || octave < -1 || octave > 9) return std::nullopt;
  // Octaves begin at C: Cb belongs to the C above it, B# to the B below.
  const char letter = char(plain[0] & ~0x20);
  const int over = letter == 'C' && letters == 2 && plain[1] == 'b'   ? -12
                   : letter == 'B' && letters == 2 && plain[1] == '#' ? 12
                                                                      : 0;
  const int note = (octave + 1) * 12 + tone->tonic + over;
  return note < 0 || note > 127 ? std::nullopt : std::optional(note);
}

std::string respelt(std::string_view chord, const std::optional<KeyName>& key) {
  const auto known = chordFromName(chord);
  return known ? spelt(*known, key) : std::string(chord);
}

std::string withSigns(std::string_view text) {
  std::string out;
  for (std::size_t i = 0; i < text.size(); ++i) {
    out += text[i];
    const bool begins = text[i] >= 'A' && text[i] <= 'G' && (i == 0 || !isWord(text[i - 1]));
    if (!begins || i + 1 == text.size()) continue;
    const char sign = text[i + 1];
    if ((sign != 'b' && sign != '#') || !endsARoot(text.substr(i + 2))) continue;
    out += sign == 'b' ? kFlatSign : kSharpSign;
    ++i;
  }
  return out;
}

std::string withoutSigns(std::string_view text) {
  std::string out;
  for (std::size_t i = 0; i < text.size();) {
    const auto rest = text.substr(i);
    const bool flat = rest.starts_with(kFlatSign), sharp = rest.starts_with(kSharpSign);
    out += flat ? 'b' : sharp ? '#' : text[i];
    i += flat || sharp ? kFlatSign.size() : 1;
  }
  return out;
}

} // namespace tuvvo

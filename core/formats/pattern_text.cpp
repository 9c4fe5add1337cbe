#include "formats/pattern_text.h"

#include "beat/grooves.h"
#include "formats/pattern_ranges.h"
#include "formats/text_tokens.h"
#include "listen/chord_name.h"
#include "model/edits.h"

#include <algorithm>
#include <array>
#include <numeric>

namespace tuvvo {

namespace {

constexpr std::array<const char*, 4> kRowWords{"cuts", "air", "body", "floor"};
constexpr std::array<const char*, 7> kAccentWords{"flat",     "beats",  "backbeats", "off-beats",
                                                  "downbeat", "rising", "falling"};

// ---- writing ------------------------------------------------------------------------------------

/// A length in beats as a whole number and a fraction in lowest terms: "1/2", "3", "1+1/3".
std::string beatsText(std::int64_t ticks) {
  const std::int64_t whole = ticks / kTicksPerBeat, rest = ticks % kTicksPerBeat;
  if (rest == 0) return std::to_string(whole);
  const std::int64_t common = std::gcd(rest, kTicksPerBeat);
  const std::string part =
      std::to_string(rest / common) + "/" + std::to_string(kTicksPerBeat / common);
  return whole == 0 ? part : std::to_string(whole) + "+" + part;
}

/// "bar.beat" and what is left of a quarter.
std::string placeText(Beats at, Meter meter) {
  const std::int64_t bar = barOf(meter).value, unit = unitOf(meter).value;
  const std::int64_t inside = at.value % bar, rest = inside % unit;
  std::string out = std::to_string(at.value / bar + 1) + "." + std::to_string(inside / unit + 1);
  return rest == 0 ? out : out + "+" + beatsText(rest);
}

std::string hitText(const Hit& hit, Meter meter) {
  std::string out = placeText(hit.at, meter) + " " + numberText(hit.velocity);
  const auto put = [&](const std::string& words) { out += " " + words; };
  if (hit.microTiming.value > 0) put("late " + numberText(hit.microTiming.value) + "ms");
  if (hit.microTiming.value < 0) put("early " + numberText(-hit.microTiming.value) + "ms");
  if (hit.tune.value != 0) put("tune " + numberText(hit.tune.value));
  if (hit.length.value != 0) put("for " + beatsText(hit.length.value));
  if (hit.start != 0) put("from " + numberText(hit.start));
  if (hit.bright != 0) put("bright " + numberText(hit.bright));
  if (hit.pan != 0) put("pan " + numberText(hit.pan));
  if (hit.reversed) put("backwards");
  if (!(hit.roll == Roll{}))
    put("roll " + std::to_string(hit.roll.hits) + " each " + beatsText(hit.roll.step.value) +
        " to " + numberText(hit.roll.endLevel) + " " + numberText(hit.roll.endTune.value));
  if (!(hit.flam == Flam{}))
    put("flam " + numberText(hit.flam.before.value) + "ms " + numberText(hit.flam.level));
  if (hit.condition.chance != 1) put("chance " + numberText(hit.condition.chance));
  if (hit.condition.every != 1)
    put("every " + std::to_string(hit.condition.every) + " on " +
        std::to_string(hit.condition.turn));
  if (hit.glide.time.value >= 0) put("glide " + numberText(hit.glide.time.value) + "ms");
  if (hit.glide.from.value != 0) put("glide-from " + numberText(hit.glide.from.value));
  return out;
}

std::string feelText(const Project& project, const Lane& lane) {
  std::string out;
  const Feel &feel = lane.feel, plain{};
  const auto put = [&](bool differs, const std::string& words) {
    if (differs) out += " " + words;
  };
  put(lane.length.value != 0, "length " + beatsText(lane.length.value));
  put(feel.swing8 != plain.swing8, "swing8 " + numberText(feel.swing8));
  put(feel.swing16 != plain.swing16, "swing16 " + numberText(feel.swing16));
  put(feel.microTiming.value != 0, "lean " + numberText(feel.microTiming.value) + "ms");
  put(feel.lag.value != 0, "lag " + std::to_string(feel.lag.value));
  put(feel.accent != AccentShape::Flat || feel.accentDepth != 0,
      std::string("accent ") + kAccentWords[std::size_t(feel.accent)] + " " +
          numberText(feel.accentDepth));
  put(feel.humanise.value != 0 || feel.humaniseLevel != 0 || feel.seed != plain.seed,
      "loosen " + numberText(feel.humanise.value) + "ms " + numberText(feel.humaniseLevel) + " " +
          std::to_string(feel.seed));
  put(feel.quantiseStrength != 0, "pull " + numberText(feel.quantiseStrength));
  if (const Groove* groove = findGroove(project, feel.groove))
    put(true, "feel " + quoted(groove->name) + " " + numberText(feel.grooveTiming) + " " +
                  numberText(feel.grooveLevel));
  return out;
}

std::string keyText(const Project& project, const Key& key) {
  std::string place = kRowWords[std::size_t(key.row)];
  place += " " + std::to_string(key.column + 1);
  if (key.page > 0) place += "/" + std::to_string(key.page + 1);
  return place + " " + quoted(nameOf(project, key));
}

// ---- reading ------------------------------------------------------------------------------------

class PatternReader {
public:
  PatternReader(const Project& project, std::string_view text)
      : m_tokens(text), m_out{project, {}, {}} {}

  PatternRead read() {
    m_tokens.expect("Tuvvo");
    m_tokens.expect("pattern");
    m_tokens.endLine();
    while (!m_tokens.atEnd()) line();
    clamp(m_out.pattern);
    return std::move(m_out);
  }

private:
  void line() {
    const std::string word = m_tokens.word();
    if (word == "name")
      m_out.pattern.name = m_tokens.text();
    else if (word == "bars")
      bars();
    else if (word == "chords")
      chords();
    else if (word == "part")
      part();
    else if (const auto row = std::find(kRowWords.begin(), kRowWords.end(), word);
             row != kRowWords.end())
      hits(Row(row - kRowWords.begin()));
    else
      m_tokens.fail("“" + word + "” begins no line of a pattern");
    m_tokens.endLine();
  }

  void bars() {
    m_out.pattern.bars = int(m_tokens.whole(1, kMostBars));
    m_tokens.expect("of");
    const std::string name = m_tokens.word();
    const auto meter = meterFromName(name);
    if (!meter) m_tokens.fail("“" + name + "” is no meter");
    m_out.pattern.meter = *meter;
  }

  void chords() {
    do {
      const Beats at = place();
      const std::string name = m_tokens.word();
      if (!chordFromName(name)) m_tokens.fail("“" + name + "” is no chord");
      m_out.pattern.chords.push_back({at, name});
    } while (m_tokens.skip(","));
  }

  /// The lane that the hits of the next lines go to, if their keys write on it.
  void part() {
    const std::string name = m_tokens.text();
    m_part = 0;
    m_feel = Lane{};
    for (const auto& each : m_out.project.parts)
      if (each.name == name) m_part = each.id;
    while (!m_tokens.atLineEnd()) feel(m_tokens.word());
    if (m_part != 0) takeFeel(m_part);
  }

  void takeFeel(Id part) {
    Lane& lane = laneOf(m_out.pattern, part);
    lane.feel = m_feel.feel;
    lane.length = m_feel.length;
  }

  void feel(const std::string& word) {
    Feel& feel = m_feel.feel;
    const FeelRanges& ranges = feelRanges();
    if (word == "length")
      m_feel.length = beats(barOf(m_out.pattern.meter) * kMostBars);
    else if (word == "swing8")
      feel.swing8 = number(ranges.swing8);
    else if (word == "swing16")
      feel.swing16 = number(ranges.swing16);
    else if (word == "lean")
      feel.microTiming = Milliseconds(number(ranges.microTiming, "ms"));
    else if (word == "lag")
      feel.lag = Beats(m_tokens.whole(-kMostLag.value, kMostLag.value));
    else if (word == "accent") {
      const std::string shape = m_tokens.word();
      const auto found = std::find(kAccentWords.begin(), kAccentWords.end(), shape);
      if (found == kAccentWords.end()) m_tokens.fail("“" + shape + "” is no accent");
      feel.accent = AccentShape(found - kAccentWords.begin());
      feel.accentDepth = number(ranges.accentDepth);
    } else if (word == "loosen") {
      feel.humanise = Milliseconds(number(ranges.humanise, "ms"));
      feel.humaniseLevel = number(ranges.humaniseLevel);
      feel.seed = std::uint32_t(m_tokens.whole(0, 0xffffffffLL));
    } else if (word == "pull")
      feel.quantiseStrength = number(ranges.quantiseStrength);
    else if (word == "feel") {
      feel.groove = groove(m_tokens.text());
      feel.grooveTiming = number(ranges.grooveTiming);
      feel.grooveLevel = number(ranges.grooveLevel);
    } else
      m_tokens.fail("“" + word + "” is nothing a part has");
  }

  Id groove(const std::string& name) {
    for (const auto& known : m_out.project.grooves)
      if (known.name == name) return known.id;
    for (const auto& shipped : shippedGrooves())
      if (shipped.name == name) {
        Id id = 0;
        m_out.project = withGroove(std::move(m_out.project), shipped, &id);
        return id;
      }
    m_out.warnings.push_back("The feel “" + name + "” is not in this beat and was left out.");
    return 0;
  }

  const Key* keyFor(Row row, int page, int column, const std::string& name) const {
    const Project& p = m_out.project;
    const Key* there = keyAt(p, row, column, page);
    if (there && nameOf(p, *there) == name) return there;
    for (const auto& key : p.keys)
      if (nameOf(p, key) == name) return &key;
    return there;
  }

  void hits(Row row) {
    const std::string spot = m_tokens.word();
    const auto slash = spot.find('/');
    const int column = int(m_tokens.wholeOf(spot.substr(0, slash), 1, kColumns));
    const int page =
        slash == std::string::npos ? 1 : int(m_tokens.wholeOf(spot.substr(slash + 1), 1, 10'000));
    const std::string name = m_tokens.text();
    m_tokens.expect(":");
    const Key* key = keyFor(row, page - 1, column - 1, name);
    if (!key || key->part == 0)
      m_out.warnings.push_back("There is no key “" + name + "” here; its hits were left out.");
    const bool fresh = key && !findLane(m_out.pattern, key->part);
    std::vector<Hit> read;
    do {
      read.push_back(hit(key ? key->id : 0));
    } while (m_tokens.skip(","));
    if (!key || key->part == 0) return;
    if (fresh) takeFeel(key->part); // of a part by another name
    Lane& lane = laneOf(m_out.pattern, key->part);
    lane.hits.insert(lane.hits.end(), read.begin(), read.end());
  }

  Hit hit(Id key) {
    const HitRanges& ranges = hitRanges();
    Hit out;
    out.key = key;
    out.at = place();
    out.velocity = number(ranges.velocity);
    while (!m_tokens.atLineEnd() && !m_tokens.isNext(",")) {
      const std::string word = m_tokens.word();
      if (word == "late")
        out.microTiming = Milliseconds(m_tokens.number(0, ranges.microTiming.most(), "ms"));
      else if (word == "early")
        out.microTiming = Milliseconds(-m_tokens.number(0, -ranges.microTiming.least(), "ms"));
      else if (word == "tune")
        out.tune = Semitones(number(ranges.tune));
      else if (word == "for")
        out.length = beats(wholeBeats(4096));
      else if (word == "from")
        out.start = number(ranges.start);
      else if (word == "bright")
        out.bright = number(ranges.brightness);
      else if (word == "pan")
        out.pan = number(ranges.pan);
      else if (word == "backwards")
        out.reversed = true;
      else if (word == "roll")
        roll(out.roll);
      else if (word == "flam") {
        out.flam.before = Milliseconds(number(ranges.flam, "ms"));
        out.flam.level = number(ranges.flamLevel);
      } else if (word == "chance")
        out.condition.chance = number(ranges.chance);
      else if (word == "every") {
        out.condition.every = whole(ranges.every);
        m_tokens.expect("on");
        out.condition.turn = int(m_tokens.whole(1, out.condition.every));
      } else if (word == "glide")
        out.glide.time = Milliseconds(m_tokens.number(0, ranges.glide.most(), "ms"));
      else if (word == "glide-from") {
        out.glide.from = Semitones(number(ranges.glideFrom));
      } else
        m_tokens.fail("“" + word + "” is nothing a hit does");
    }
    return out;
  }

  void roll(Roll& roll) {
    const HitRanges& ranges = hitRanges();
    roll.hits = whole(ranges.roll);
    m_tokens.expect("each");
    roll.step = beats(wholeBeats(4));
    if (!m_tokens.skip("to")) return;
    roll.endLevel = number(ranges.rollEndsAt);
    roll.endTune = Semitones(number(ranges.rollTune));
  }

  double number(const json_read::FileRange& range, std::string_view unit = {}) {
    return m_tokens.number(range.least(), range.most(), unit);
  }
  int whole(const json_read::FileRange& range) {
    return int(m_tokens.whole(std::int64_t(range.least()), std::int64_t(range.most())));
  }

  Beats beats(Beats most) { return beatsOf(m_tokens.word(), most); }

  Beats beatsOf(const std::string& word, Beats most) {
    std::int64_t ticks = 0;
    std::size_t from = 0;
    while (from <= word.size()) { // "1+1/3"
      const std::size_t plus = std::min(word.find('+', from), word.size());
      const std::string part = word.substr(from, plus - from);
      const auto slash = part.find('/');
      const std::int64_t above = m_tokens.wholeOf(part.substr(0, slash), 0, 1'000'000);
      const std::int64_t below = slash == std::string::npos
                                     ? 1
                                     : m_tokens.wholeOf(part.substr(slash + 1), 1, kTicksPerBeat);
      ticks += (above * kTicksPerBeat + below / 2) / below;
      from = plus + 1;
    }
    if (ticks > most.value) m_tokens.fail("“" + word + "” beats are too many");
    return Beats(ticks);
  }

  Beats place() {
    const std::string word = m_tokens.word();
    const auto dot = word.find('.'), plus = std::min(word.find('+'), word.size());
    if (dot == std::string::npos || dot > plus) m_tokens.fail("“" + word + "” is no place");
    const Meter meter = m_out.pattern.meter;
    const std::int64_t bar = m_tokens.wholeOf(word.substr(0, dot), 1, kMostBars),
                       beat = m_tokens.wholeOf(word.substr(dot + 1, plus - dot - 1), 1, 4096);
    Beats at = barOf(meter) * (bar - 1) + unitOf(meter) * (beat - 1);
    if (plus < word.size()) at += beatsOf(word.substr(plus + 1), wholeBeats(4));
    return at;
  }

  TextTokens m_tokens;
  PatternRead m_out;
  Id m_part = 0;
  Lane m_feel; ///< of the part line read last
};

} // namespace

std::string patternText(const Project& project, const Pattern& pattern) {
  std::string out = "Tuvvo pattern\nname " + quoted(pattern.name) + "\nbars " +
                    std::to_string(pattern.bars) + " of " + nameOf(pattern.meter) + "\n";
  std::string chords;
  for (const auto& mark : pattern.chords)
    chords +=
        (chords.empty() ? "chords " : ", ") + placeText(mark.at, pattern.meter) + " " + mark.name;
  if (!chords.empty()) out += chords + "\n";
  for (const auto& lane : pattern.lanes) {
    const Part* part = findPart(project, lane.part);
    if (lane.hits.empty() || !part) continue;
    out += "part " + quoted(part->name) + feelText(project, lane) + "\n";
    std::vector<Id> keys; // in the order they are first struck
    for (const auto& hit : lane.hits)
      if (std::find(keys.begin(), keys.end(), hit.key) == keys.end()) keys.push_back(hit.key);
    for (Id id : keys) {
      const Key* key = findKey(project, id);
      if (!key) continue;
      std::string hits;
      for (const auto& hit : lane.hits)
        if (hit.key == id) hits += (hits.empty() ? " " : ", ") + hitText(hit, pattern.meter);
      out += keyText(project, *key) + ":" + hits + "\n";
    }
  }
  return out;
}

Result<PatternRead> patternFromText(const Project& project, std::string_view text) {
  if (text.size() > kMostPatternText)
    return Error{"This text is too long for a pattern", "", "Copy one pattern at a time."};
  PatternReader reader(project, text);
  try {
    PatternRead read = reader.read();
    const bool any = std::any_of(read.pattern.lanes.begin(), read.pattern.lanes.end(),
                                 [](const Lane& lane) { return !lane.hits.empty(); });
    if (!any)
      return Error{"No hit of this pattern could be laid", read.pattern.name,
                   "Its keys are not in this beat: put sounds on them first."};
    return read;
  } catch (const TextTokens::Bad& bad) {
    return Error{"This text is no pattern: " + bad.what, "line " + std::to_string(bad.line),
                 "Copy a pattern as text, and change no more than its figures."};
  }
}

} // namespace tuvvo

#include "tones/chord_line.h"

#include "base/convert.h"
#include "beat/hits.h"
#include "shape/shaped.h"
#include "tones/theory.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

namespace tuvvo {

namespace {

constexpr std::int64_t kShortest = kTicksPerBeat / 8;
constexpr std::int64_t kRest = 2 * kTicksPerBeat; ///< so long a chord is remembered

/// A sounding stretch of a source with chords.
struct Sounding {
  double from = 0, until = 0; ///< ticks of the pattern
  const Key* key = nullptr;
  const Source* source = nullptr;
  const Hit* hit = nullptr;
};

bool hasChords(const Source& source) {
  const auto kind = kindOf(source);
  return source.sound && source.heard && !source.heard->chords.empty() &&
         (kind == SoundKind::Loop || kind == SoundKind::Passage);
}

bool backwards(const Key& key, const Hit& hit) {
  const auto turns =
      std::count_if(key.treatments.begin(), key.treatments.end(),
                    [](const Treatment& t) { return t.on && t.is<treat::Reverse>(); });
  return (turns % 2 == 1) != hit.reversed;
}

/// Works out once for a source what its time becomes.
class Lines {
public:
  explicit Lines(Bpm tempo) : m_tempo(tempo) {}
  const TimeLine& of(const Source& source) {
    auto& line = m_lines[source.id];
    if (line.knots.empty()) line = shapedLine(ResolvedSource(source), source.shape, m_tempo);
    return line;
  }

private:
  Bpm m_tempo;
  std::map<Id, TimeLine> m_lines;
};

/// What is heard of a key: the seconds of its source, and how long they take.
struct Played {
  double fromS = 0, untilS = 0; ///< of the source
  double lasts = 0;             ///< seconds of the beat
  double speed = 1;             ///< of the key's own tune on top of the shape
};

Played playedOf(const Key& key, const Source& source, const Hit& hit, Lines& lines) {
  const Hertz rate = source.sound->rate();
  const Stretch stretch = stretchOf(source, key);
  const TimeLine& line = lines.of(source);
  Played played{toSeconds(stretch.start, rate).value, toSeconds(stretch.end, rate).value, 0, 1};
  played.speed = ratioOf(key.tune + toSemitones(key.fine) + key.own.tune + hit.tune);
  played.lasts = (line.resultAt(played.untilS) - line.resultAt(played.fromS)) / played.speed;
  return played;
}

std::vector<Sounding> soundingOf(const Project& project, const Pattern& pattern, Lines& lines) {
  std::vector<Sounding> out;
  const double length = double(lengthOf(pattern).value);
  const double ticksPerS = project.tempo.value / 60 * double(kTicksPerBeat);
  for (const auto& lane : pattern.lanes) {
    const ResolvedTiming timed(project, pattern.meter, lane);
    const double round = double(lengthOf(pattern, lane).value);
    for (const auto& hit : lane.hits) {
      const Key* key = findKey(project, hit.key);
      const Source* source = key ? findSource(project, key->sound.source) : nullptr;
      if (!source || !hasChords(*source)) continue;
      double lasts = playedOf(*key, *source, hit, lines).lasts * (1 - hit.start) * ticksPerS;
      if (key->gate && hit.length.value > 0) lasts = std::min(lasts, double(hit.length.value));
      for (double from = 0; from + double(hit.at.value) < length; from += round) {
        const double at = std::max(0.0, from + timed.heardAt(hit));
        out.push_back({at, std::min(length, at + lasts), key, source, &hit});
        if (round >= length) break;
      }
    }
  }
  std::stable_sort(out.begin(), out.end(),
                   [](const Sounding& a, const Sounding& b) { return a.from < b.from; });
  // What chokes it, or is struck on the same key where only one sounds, ends it.
  std::map<int, double> choked;
  std::map<Id, double> struck;
  for (auto each = out.rbegin(); each != out.rend(); ++each) {
    const Key& key = *each->key;
    if (key.choke != 0) {
      const auto [next, first] = choked.emplace(key.choke, each->from);
      if (!first) each->until = std::min(each->until, std::exchange(next->second, each->from));
    }
    if (key.mono) {
      const auto [next, first] = struck.emplace(key.id, each->from);
      if (!first) each->until = std::min(each->until, std::exchange(next->second, each->from));
    }
  }
  return out;
}

/// Lays a stretch over what is there; stretches stay apart and in rising order.
void lay(std::vector<ChordSpan>& spans, const ChordSpan& span) {
  const auto first = std::partition_point(
      spans.begin(), spans.end(), [&](const ChordSpan& each) { return each.until <= span.from; });
  const auto last = std::partition_point(
      first, spans.end(), [&](const ChordSpan& each) { return each.from < span.until; });
  std::vector<ChordSpan> instead;
  if (first != last && first->from < span.from)
    instead.push_back({first->from, span.from, first->chord, first->source});
  instead.push_back(span);
  if (first != last && std::prev(last)->until > span.until)
    instead.push_back(
        {span.until, std::prev(last)->until, std::prev(last)->chord, std::prev(last)->source});
  spans.insert(spans.erase(first, last), instead.begin(), instead.end());
}

/// Slivers go to what comes after them, neighbours of one chord become one.
std::vector<ChordSpan> tidied(const std::vector<ChordSpan>& spans) {
  std::vector<ChordSpan> out;
  for (std::size_t i = 0; i < spans.size(); ++i) {
    ChordSpan span = spans[i];
    const bool touches =
        i + 1 < spans.size() && spans[i + 1].from.value - span.until.value <= kShortest;
    if ((span.until - span.from).value < kShortest) {
      if (!touches) continue;
      span.chord = spans[i + 1].chord;
      span.source = spans[i + 1].source;
    }
    if (!out.empty() && out.back().chord == span.chord &&
        span.from.value - out.back().until.value <= kRest)
      out.back().until = span.until;
    else
      out.push_back(span);
  }
  return out;
}

} // namespace

std::vector<ChordSpan> heardChords(const Project& project, const Pattern& pattern) {
  std::vector<ChordSpan> spans;
  Lines lines(project.tempo);
  const double ticksPerS = project.tempo.value / 60 * double(kTicksPerBeat);
  for (const auto& sounding : soundingOf(project, pattern, lines)) {
    const Key& key = *sounding.key;
    const Source& source = *sounding.source;
    const Played played = playedOf(key, source, *sounding.hit, lines);
    const TimeLine& line = lines.of(source);
    const bool turned = backwards(key, *sounding.hit);
    // How far a chord's name moves: by all that is tuned, and by what the source is off to begin
    // with.
    const double tuning = source.heard->key ? source.heard->key->tuning.value / 100 : 0;
    const int moved =
        toNearest<int>(semitonesOf(source.shape.pitch() * played.speed).value + tuning);
    const double startS = line.resultAt(played.fromS), endS = line.resultAt(played.untilS);
    const auto ticksAt = [&](double sourceS) {
      const double inside = std::clamp(line.resultAt(sourceS), startS, endS);
      const double gone = (turned ? endS - inside : inside - startS) / played.speed -
                          sounding.hit->start * played.lasts;
      return sounding.from + gone * ticksPerS;
    };
    for (const auto& heard : source.heard->chords) {
      const auto chord = chordFromName(heard.name);
      if (!chord || heard.end.value <= played.fromS || heard.start.value >= played.untilS) continue;
      double from = ticksAt(heard.start.value), until = ticksAt(heard.end.value);
      if (turned) std::swap(from, until);
      from = std::max(from, sounding.from);
      until = std::min(until, sounding.until);
      const ChordSpan span{Beats(toNearest<std::int64_t>(from)),
                           Beats(toNearest<std::int64_t>(until)), transposed(*chord, moved),
                           source.id};
      if (span.until > span.from) lay(spans, span);
    }
  }
  return tidied(spans);
}

std::vector<ChordSpan> chordsOf(const Project& project, const Pattern& pattern) {
  if (pattern.chords.empty()) return heardChords(project, pattern);
  std::vector<ChordSpan> spans;
  const Beats end = lengthOf(pattern);
  for (std::size_t i = 0; i < pattern.chords.size(); ++i) {
    const auto& mark = pattern.chords[i];
    const Beats until = i + 1 < pattern.chords.size() ? pattern.chords[i + 1].at : end;
    const auto chord = chordFromName(mark.name);
    if (chord && mark.at < end) spans.push_back({mark.at, std::min(until, end), *chord, 0});
  }
  return spans;
}

const ChordSpan* chordAt(const std::vector<ChordSpan>& spans, Beats at) {
  if (spans.empty()) return nullptr;
  const auto after = std::upper_bound(spans.begin(), spans.end(), at,
                                      [](Beats b, const ChordSpan& span) { return b < span.from; });
  return after == spans.begin() ? &spans.back() : &*std::prev(after);
}

Pattern withChordsWritten(const Project& project, Pattern pattern) {
  if (!pattern.chords.empty()) return pattern;
  for (const auto& span : heardChords(project, pattern))
    pattern.chords.push_back({span.from, spelt(span.chord, project.key)});
  return pattern;
}

Pattern withChord(const Project& project, Pattern pattern, Beats at, const std::string& name) {
  pattern = withChordsWritten(project, std::move(pattern));
  const auto after = std::upper_bound(pattern.chords.begin(), pattern.chords.end(), at,
                                      [](Beats b, const ChordMark& mark) { return b < mark.at; });
  if (after == pattern.chords.begin())
    pattern.chords.insert(after, {at, name});
  else
    std::prev(after)->name = name;
  return pattern;
}

} // namespace tuvvo

#include "notes/bars_note.h"

#include "base/convert.h"
#include "cut/slicing.h"
#include "model/edits.h"
#include "model/resolved_source.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kOffBars = 0.1;     ///< beats
constexpr double kOtherTempo = 0.04; ///< a loop's tempo may be wrong by as much
constexpr double kTailUnderDb = 6;
constexpr double kNewHitS = 0.03; ///< a hit so near to a bar line belongs to what is before it
constexpr int kEnoughBeats = 8;

/// Mean square of all channels.
double powerOf(const Sound& sound, std::int64_t from, std::int64_t to) {
  double sum = 0;
  from = std::max<std::int64_t>(0, from);
  to = std::min(to, sound.frames().value);
  if (to <= from) return 0;
  for (int c = 0; c < sound.channels(); ++c)
    for (std::int64_t i = from; i < to; ++i) {
      const auto v = double(sound.channel(c)[std::size_t(i)]);
      sum += v * v;
    }
  return sum / double(to - from);
}

/// By the beats that were heard; nothing where they are too few.
std::optional<double> playedTempo(const Source& source) {
  if (!source.heard || int(source.heard->beats.size()) < kEnoughBeats) return std::nullopt;
  const auto& beats = source.heard->beats;
  return 60 * double(beats.size() - 1) / (beats.back().value - beats.front().value);
}

struct Measured {
  Grid grid{};
  double bars = 0;     ///< from the first downbeat to the end
  int full = 0;        ///< that are whole
  Seconds lastLine{0}; ///< after them; after the first one where none is
  double duration = 0; ///< s
  bool steady = true;
};

/// By the even grid, or by the bar lines as they were played.
std::optional<Measured> measure(const Source& source) {
  const auto grid = gridOf(source);
  if (!grid || !source.sound) return std::nullopt;
  const ResolvedSource resolved(source);
  const Seconds end = source.cuts.empty() ? source.sound->duration()
                                          : toSeconds(source.cuts.back().end, source.sound->rate());
  Measured out;
  out.grid = *grid;
  out.duration = end.value - grid->downbeat.value;
  out.steady = resolved.steady();
  const double bar = grid->meter * 60 / grid->tempo.value;
  std::vector<Seconds> lines;
  for (const Seconds line : resolved.bars())
    if (line.value > grid->downbeat.value - bar / 8 && line.value <= end.value)
      lines.push_back(line);
  if (!out.steady && lines.size() >= 2) {
    out.full = int(lines.size()) - 1;
    out.lastLine = lines.back();
    out.bars =
        out.full + (end - out.lastLine).value / (lines.back() - lines[lines.size() - 2]).value;
    return out;
  }
  out.bars = out.duration / bar;
  out.full = toWhole<int>(std::floor(std::clamp(out.bars, 0.0, 1000.0)));
  out.lastLine = Seconds(grid->downbeat.value + std::max(1, out.full) * bar);
  return out;
}

Note wholeTempo(const Source& source, double bars, double tempo) {
  Note note;
  note.finding = finding::TempoOfWholeBars{source.name, bars, gridOf(source)->tempo, Bpm(tempo)};
  note.fix = [id = source.id, tempo](const Project& p) {
    return withSourceChanged(p, id, [&](Source& s) { s.corrections.tempo = Bpm(tempo); });
  };
  return note;
}

/// @param end  the bar line after those bars
Note cutWholeBars(const Source& source, double bars, int whole, Seconds end) {
  Note note;
  note.finding = finding::EndsOffBars{source.name, bars, whole};
  note.fix = [id = source.id, end](const Project& p) {
    const Source* s = findSource(p, id);
    if (!s) return p;
    CutSettings byBeats = s->cutting;
    byBeats.mode = CutMode::Beats;
    byBeats.perBeat = 1;
    auto cuts = cutSource(*s, byBeats);
    const auto g = gridOf(*s);
    const Hertz rate = s->sound->rate();
    const double endS = end.value;
    std::erase_if(cuts, [&](const Cut& cut) {
      const double at = toSeconds(cut.start, rate).value;
      return at < g->downbeat.value - 0.01 || at > endS - 0.02;
    });
    if (!cuts.empty()) cuts.back().end = std::min(cuts.back().end, toFrames(Seconds(endS), rate));
    return withCuts(p, id, byBeats, std::move(cuts));
  };
  return note;
}

} // namespace

bool onlyRings(const Source& source, Seconds from) {
  if (!source.sound) return false;
  if (source.heard)
    for (const auto& onset : source.heard->onsets)
      if (onset.at.value > from.value + kNewHitS) return false;
  const Sound& sound = *source.sound;
  const std::int64_t at = toFrames(from, sound.rate()).value, frames = sound.frames().value - at;
  if (frames <= 0) return true;
  const double before = powerOf(sound, at - frames, at), after = powerOf(sound, at, at + frames);
  return after * std::pow(10, kTailUnderDb / 10) <= before;
}

void addBarsNote(const Source& source, std::vector<Note>& notes) {
  const auto measured = measure(source);
  if (!measured) return;
  const auto [grid, bars, full, lastLine, duration, steady] = *measured;
  const double whole = std::round(bars);
  if (!(bars >= 0.6 && bars <= 33) || whole < 1) return;
  if (std::abs(bars - whole) * grid.meter < kOffBars) return;
  const double other = 60 * whole * grid.meter / duration;
  const auto played = playedTempo(source);
  const bool agrees = played && std::abs(*played - other) < std::abs(*played - grid.tempo.value);
  const bool doubted = !source.corrections.tempo && steady &&
                       std::abs(other / grid.tempo.value - 1) < kOtherTempo && (!played || agrees);
  if (full >= 1 && !(doubted && agrees) && onlyRings(source, lastLine)) return;
  Note note = doubted ? wholeTempo(source, bars, other)
                      : cutWholeBars(source, bars, std::max(1, full), lastLine);
  note.id = "bars:" + source.hash;
  note.stage = Stage::Cut;
  notes.push_back(std::move(note));
}

} // namespace tuvvo

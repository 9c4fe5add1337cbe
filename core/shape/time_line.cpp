#include "shape/time_line.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kMostS = 30;

double onLine(double x, double x0, double y0, double x1, double y1) {
  return y0 + (x - x0) * (y1 - y0) / (x1 - x0);
}

template <auto From, auto To> double through(const std::vector<TimeLine::Knot>& knots, double x) {
  auto after = std::upper_bound(knots.begin(), knots.end(), x,
                                [](double v, const TimeLine::Knot& k) { return v < k.*From; });
  // Beyond either end the nearest line goes on.
  after = std::clamp(after, knots.begin() + 1, knots.end() - 1);
  const auto &a = *(after - 1), &b = *after;
  return onLine(x, a.*From, a.*To, b.*From, b.*To);
}

} // namespace

double TimeLine::sourceAt(double result) const {
  return through<&Knot::result, &Knot::source>(knots, result);
}
double TimeLine::resultAt(double source) const {
  return through<&Knot::source, &Knot::result>(knots, source);
}

TimeLine timeLineOf(const ResolvedSource& source, const BeatFrame& beat, double speed) {
  TimeLine line;
  const double duration = source.source().sound->duration().value;
  const auto& grid = source.grid();
  const auto bars = source.bars();
  const double first = bars.empty() ? 0 : bars.front().value,
               end = std::min(first + kMostS, duration);
  int n = 0;
  if (grid) {
    // The planner folds half and double tempo: the tempo it meets says how long a beat becomes.
    const double beatS =
        60 / (grid->tempo.value * ratioOf(repitchToTempo(grid->tempo, beat.tempo)));
    for (const Seconds at : source.beats())
      if (at.value >= first - 1e-6 && at.value < end) line.knots.push_back({at.value, beatS * n++});
    if (n >= 2) {
      const double period = 60 / grid->tempo.value;
      // Steady beats lie on one line; following every one of them would only add its own jitter.
      if (source.source().heard && source.source().heard->tempo && source.steady())
        line.knots = {{first, 0}, {first + period * n, beatS * n}};
      else
        line.knots.push_back({line.knots.back().source + period, beatS * n});
      // Beats that are whole in the source; a loop's last ends where the file does.
      const double beatOfBeat = 60 / beat.tempo.value, bar = beat.beatsPerBar;
      const double whole = std::floor(line.resultAt(end + 0.02) / beatOfBeat + 0.05);
      line.beats = whole >= bar ? std::floor(whole / bar) * bar : std::max(1.0, whole);
      line.length = line.beats * beatOfBeat;
      return line;
    }
  }
  const double most = std::min(kMostS, duration);
  line.knots = {{0, 0}, {most, most / speed}};
  line.length = most / speed;
  return line;
}

} // namespace tuvvo

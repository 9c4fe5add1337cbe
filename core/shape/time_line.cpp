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

/// The beat's beats for one of the source's: half, one or two, whichever is nearest in tempo.
double foldOf(Bpm source, Bpm beat) {
  double best = 1;
  for (double fold : {0.5, 2.0})
    if (std::abs(std::log(source.value / beat.value / fold)) <
        std::abs(std::log(source.value / beat.value / best)))
      best = fold;
  return 1 / best;
}

} // namespace

double TimeLine::sourceAt(double result) const {
  return through<&Knot::result, &Knot::source>(knots, result);
}
double TimeLine::resultAt(double source) const {
  return through<&Knot::source, &Knot::result>(knots, source);
}

TimeLine timeLineOf(const Source& source, const BeatFrame& beat, double speed) {
  TimeLine line;
  const double end = std::min(kMostS, source.sound->duration().value);
  const auto grid = gridOf(source);
  const auto beats = beatsOf(source);
  if (!grid || beats.size() < 2) {
    line.knots = {{0, 0}, {end, end / speed}};
    line.length = end / speed;
    return line;
  }
  const auto bars = barsOf(source);
  const double first = bars.empty() ? beats.front().value : bars.front().value;
  const double fold = foldOf(grid->tempo, beat.tempo), beatS = 60 / beat.tempo.value;
  int n = 0;
  for (const Seconds at : beats)
    if (at.value >= first - 1e-6 && at.value <= end)
      line.knots.push_back({at.value, fold * beatS * n++});
  // Steady beats lie on one line; listening to every one of them would only add its own jitter.
  if (source.heard && source.heard->tempo && source.heard->tempo->steady) {
    const double period = 60 / grid->tempo.value;
    line.knots = {{first, 0}, {first + period * n, fold * beatS * n}};
  } else {
    const double period = 60 / grid->tempo.value;
    line.knots.push_back({line.knots.back().source + period, fold * beatS * n});
  }
  // Beats that are whole in the source; a loop's last ends where the file does.
  const double last = line.resultAt(end + 0.02);
  const double whole = std::floor(last / beatS + 0.05);
  const double bar = beat.beatsPerBar;
  line.beats = whole >= bar ? std::floor(whole / bar) * bar : std::max(1.0, whole);
  line.length = line.beats * beatS;
  return line;
}

} // namespace tuvvo

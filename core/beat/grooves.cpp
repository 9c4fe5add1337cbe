#include "beat/grooves.h"

#include "base/convert.h"
#include "shape/shaped.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace tuvvo {

namespace {

struct Played {
  double beat, velocity;
  HitClass hit;
};

bool is(const Onset& onset, HitClass hit) {
  return std::find(onset.hits.begin(), onset.hits.end(), hit) != onset.hits.end();
}

/// What leads the ear of several that sound at once.
HitClass leading(const Onset& onset) {
  for (HitClass hit : {HitClass::Snare, HitClass::Kick, HitClass::Hat})
    if (is(onset, hit)) return hit;
  return HitClass::Other;
}

std::vector<Played> playedOf(const ResolvedSource& source) {
  std::vector<Played> out;
  const auto felt = FeltBeats::of(source);
  if (!felt) return out;
  for (const auto& onset : source.onsets()) {
    Played played;
    played.beat = felt->at(onset.at);
    played.velocity = velocityOfLevel(onset.level);
    played.hit = leading(onset);
    out.push_back(played);
  }
  return out;
}

/// How far hits lie from a grid, root of the mean square, in beats.
double roughness(const std::vector<Played>& played, int perBeat) {
  double square = 0;
  for (const auto& each : played) {
    const double x = each.beat * perBeat;
    square += std::pow((x - std::round(x)) / perBeat, 2);
  }
  return std::sqrt(square / double(std::max<std::size_t>(1, played.size())));
}

} // namespace

Result<Groove> grooveOf(const Source& source) {
  const ResolvedSource resolved(source);
  const auto& grid = resolved.grid();
  const auto played = playedOf(resolved);
  if (played.size() < 4)
    return Error{grid ? "There are too few hits to take a feel from"
                      : "This sound has no tempo to take a feel against",
                 source.name, "Choose a loop with drums, or say its tempo in the Crate."};
  // Triplets have fewer lines, so that any hit lies further from them by chance.
  const int perBeat = roughness(played, 3) * 3 < roughness(played, 4) * 4 * 0.8 ? 3 : 4;
  const int bar = grid ? grid->meter : 4;
  const double last = played.back().beat;
  int bars = 1;
  while (bars < 4 && bars * 2 * bar <= 16 && last >= bars * bar + 0.5) bars *= 2;
  Groove groove;
  groove.name = "feel of " + source.name;
  groove.from = source.name;
  groove.length = wholeBeats(std::int64_t(bars) * bar);
  std::map<HitClass, std::pair<double, int>> means;
  for (const auto& each : played) {
    means[each.hit].first += each.velocity;
    ++means[each.hit].second;
  }
  struct Sum {
    double late = 0, level = 0;
    int hits = 0;
  };
  std::map<std::int64_t, Sum> steps;
  const std::int64_t length = groove.length.value, line = kTicksPerBeat / perBeat;
  for (const auto& each : played) {
    const std::int64_t at = toNearest<std::int64_t>(each.beat * perBeat) * line;
    Sum& sum = steps[wrapped(at, length)];
    sum.late += each.beat * double(kTicksPerBeat) - double(at);
    const auto& [total, count] = means[each.hit];
    sum.level += each.velocity / (total / count);
    ++sum.hits;
  }
  for (const auto& [at, sum] : steps)
    groove.steps.push_back({Beats(at), sum.late / sum.hits, sum.level / sum.hits});
  clamp(groove);
  return groove;
}

const std::vector<Groove>& shippedGrooves() {
  // Ours, by ear and arithmetic: sixteenths of one bar, lateness in thousandths of a beat and level
  // in hundredths.
  struct Recipe {
    const char* name;
    std::array<int, 16> late, level;
  };
  static constexpr Recipe recipes[] = {
      {"Ferry late", // two and four drag, the rest stands
       {0, 4, 8, 4, 34, 12, 8, 4, 0, 4, 8, 4, 34, 12, 8, 4},
       {100, 84, 92, 84, 108, 86, 92, 84, 100, 84, 92, 84, 108, 86, 92, 88}},
      {"Gangway", // sixteenths that limp
       {0, 62, 0, 62, 0, 62, 0, 62, 0, 62, 0, 62, 0, 62, 0, 62},
       {106, 74, 94, 74, 104, 74, 94, 74, 106, 74, 94, 74, 104, 74, 94, 78}},
      {"Slack rope", // off-beats come when they come
       {0, 26, 18, 40, 8, 30, 22, 44, 2, 26, 18, 38, 10, 32, 24, 48},
       {102, 80, 96, 82, 100, 78, 98, 84, 102, 80, 96, 82, 100, 78, 100, 90}},
      {"Tide going out", // later and softer through the bar
       {0, 3, 6, 9, 12, 15, 18, 21, 24, 27, 30, 33, 36, 39, 42, 45},
       {112, 96, 104, 94, 106, 92, 100, 90, 102, 88, 96, 86, 98, 84, 92, 82}},
      {"Engine room", // eager: everything but the one is shifted forward
       {0, -14, -18, -14, -22, -14, -18, -14, -10, -14, -18, -14, -22, -14, -18, -14},
       {110, 90, 102, 90, 106, 90, 102, 90, 110, 90, 102, 90, 106, 90, 102, 92}},
      {"Lantern walk", // three against two, nearly
       {0, 76, 52, 104, 0, 76, 52, 104, 0, 76, 52, 104, 0, 76, 52, 104},
       {104, 70, 90, 76, 100, 70, 92, 78, 104, 70, 90, 76, 100, 70, 92, 82}}};
  static const std::vector<Groove> grooves = [] {
    std::vector<Groove> out;
    for (const auto& recipe : recipes) {
      Groove groove;
      groove.name = recipe.name;
      groove.length = wholeBeats(4);
      for (std::size_t i = 0; i < 16; ++i)
        groove.steps.push_back({Beats(kTicksPerBeat / 4 * std::int64_t(i)),
                                recipe.late[i] / 1000.0 * double(kTicksPerBeat),
                                recipe.level[i] / 100.0});
      out.push_back(std::move(groove));
    }
    return out;
  }();
  return grooves;
}

} // namespace tuvvo

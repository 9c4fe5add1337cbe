#include "pattern_bench.h"
#include "session/services.h"

#include "base/random.h"
#include "beat/beat_stage.h"
#include "beat/ribbons_view.h"
#include "model/edits.h"

#include <QCoreApplication>

#include <algorithm>
#include <chrono>
#include <cstdio>

namespace tuvvo {

namespace {

using Clock = std::chrono::steady_clock;
constexpr int kHits = 20'000, kParts = 8, kRuns = 100;

double millisecondsSince(Clock::time_point start) {
  return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}

/// Eight parts whose feels differ, each with its share of hits in sixty-four bars.
Project crowded(Id* pattern) {
  Project project;
  Samples samples(4800, 0.1f);
  Source sound;
  sound.name = "tick";
  sound.sound = std::make_shared<const Sound>(Channels{samples, samples}, Hertz(48000));
  sound.hash = sound.sound->hash();
  Id source = 0;
  project = withSource(std::move(project), sound, &source);
  Pattern made;
  made.bars = kMostBars;
  Random random(5);
  for (int i = 0; i < kParts; ++i) {
    Id key = 0;
    project = withKeySound(std::move(project), Row(1 + i % 3), i / 3, 0, {source, 0},
                           "part " + std::to_string(i), &key);
    Lane& lane = laneOf(made, findKey(project, key)->part);
    lane.feel.swing16 = 50 + 2 * i;
    lane.feel.microTiming = Milliseconds(i);
    lane.feel.humanise = Milliseconds(2);
    for (int n = 0; n < kHits / kParts; ++n) {
      Hit hit;
      hit.at = Beats(lengthOf(made).value / (kHits / kParts) * n);
      hit.key = key;
      hit.velocity = 0.2 + 0.8 * random.unit();
      hit.microTiming = Milliseconds(8 * random.bipolar());
      lane.hits.push_back(hit);
    }
  }
  return withPattern(std::move(project), std::move(made), pattern);
}

} // namespace

void benchPattern(Report report) {
  Services services;
  Id id = 0;
  const Project project = crowded(&id);
  std::vector<double> compiling;
  for (int i = 0; i < kRuns; ++i) {
    const auto begin = Clock::now();
    const Score score = compilePattern(project, id);
    compiling.push_back(millisecondsSince(begin));
    if (score.events.size() < std::size_t(kHits) * 9 / 10) compiling.back() = 1e9;
  }
  std::sort(compiling.begin(), compiling.end());
  report("20 000 pins in 64 bars: the score, 95th", compiling[kRuns * 95 / 100], "ms", "< 5",
         compiling[kRuns * 95 / 100] < 5);
  services.document.edit("twenty thousand pins", project);
  services.document.select(withPatternChosen(services.document.selection(), id));
  Panel root;
  showDocument(services, root);
  BeatStage stage(root, services.transport, services.recorder, services.auditions,
                  services.printing, nullptr);
  stage.resize(1180, 620);
  stage.show();
  for (int i = 0; i < 3; ++i) {
    services.wait();
    QCoreApplication::processEvents();
  }
  RibbonsView& ribbons = stage.ribbons();
  const Id part = ribbons.currentPart();
  const struct {
    const char* what;
    double share;
  } views[] = {{"all in sight", 1}, {"eight bars in sight", 1.0 / 8}};
  for (const auto& view : views) {
    if (view.share < 1) ribbons.zoom(view.share, 0);
    const PatternPtr pattern = findPattern(services.document.project(), id);
    stage.choice().chooseOne(part, findLane(*pattern, part)->hits[20]);
    QCoreApplication::processEvents();
    std::vector<double> painting, answering;
    for (int i = 0; i < kRuns; ++i) {
      const auto begin = Clock::now();
      stage.choice().change("Lean", [i](Hit& hit) { hit.microTiming.value += i % 2 ? 1 : -1; });
      answering.push_back(millisecondsSince(begin));
      const auto painted = Clock::now();
      QCoreApplication::processEvents();
      painting.push_back(millisecondsSince(painted));
    }
    const bool moved = stage.choice().hits().size() == 1;
    std::sort(painting.begin(), painting.end());
    std::sort(answering.begin(), answering.end());
    char text[100];
    std::snprintf(text, sizeof text, "  one edited, painted, %s, 95th%s", view.what,
                  moved ? "" : " (NOTHING MOVED)");
    report(text, painting[kRuns * 95 / 100], "ms", "< 10",
           moved && painting[kRuns * 95 / 100] < 10);
    report("  its edit with the score and the engine, 95th", answering[kRuns * 95 / 100], "ms", "-",
           true);
  }
}

} // namespace tuvvo

#include "cut_bench.h"
#include "session/services.h"

#include "base/random.h"
#include "cut/cut_stage.h"
#include "cut/drift_line.h"
#include "cut/fit_ruler.h"
#include "cut/wave_view.h"
#include "model/edits.h"

#include <QCoreApplication>
#include <QMouseEvent>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>

namespace tuvvo {

namespace {

using Clock = std::chrono::steady_clock;
constexpr int kSlices = 1000;

double millisecondsSince(Clock::time_point start) {
  return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}

/// Two hundred and fifty beats of hits on every sixteenth, that wander a little, heard as they are.
Source longBreak() {
  Random random(8);
  const double beat = 0.6;
  Samples samples(std::size_t(251 * beat * 48000), 0.0f);
  Source source;
  source.name = "long break";
  Analysis heard;
  heard.kind = {SoundKind::Break, 1};
  heard.tempo = TempoHeard{Bpm(100), 0.9, {}, {}, false, Milliseconds(15)};
  for (int i = 0; i < kSlices; ++i) {
    const double at = 0.1 + i * beat / 4 + 0.004 * random.bipolar();
    Onset onset;
    onset.at = Seconds(at);
    onset.cut = Seconds(at - 0.001);
    onset.hits = {HitClass(i % 3)};
    heard.onsets.push_back(onset);
    if (i % 4 == 0) heard.beats.push_back(Seconds(at));
    if (i % 16 == 0) heard.downbeats.push_back(Seconds(at));
    const auto first = std::size_t(at * 48000);
    for (std::size_t n = 0; n < 4000; ++n)
      samples[first + n] += float(0.5 * random.bipolar() * std::exp(-double(n) / 900));
  }
  source.sound = std::make_shared<const Sound>(Channels{samples, std::move(samples)}, Hertz(48000));
  source.hash = source.sound->hash();
  source.heard = std::move(heard);
  return source;
}

void send(QWidget& to, QEvent::Type type, QPointF at) {
  QMouseEvent event(type, at, to.mapToGlobal(at), Qt::LeftButton,
                    type == QEvent::MouseButtonRelease ? Qt::NoButton : Qt::LeftButton, {});
  QCoreApplication::sendEvent(&to, &event);
}

} // namespace

void benchDragging(Report report) {
  Services services;
  Source source = longBreak();
  std::vector<Cut> cuts;
  for (const auto& onset : source.heard->onsets) {
    Cut cut;
    cut.start = toFrames(onset.cut, Hertz(48000));
    if (!cuts.empty()) cuts.back().end = cut.start;
    cut.end = source.sound->frames();
    cuts.push_back(cut);
  }
  Id id = 0;
  Project project = withSource(services.document.project(), source, &id);
  project = withCuts(std::move(project), id, {}, cuts);
  project.tempo = Bpm(96);
  services.document.edit("a thousand slices", project);
  const Project& now = services.document.project();
  services.document.select(
      withCutChosen(services.document.selection(), now, id, findSource(now, id)->cuts[500].id));
  Panel root;
  showDocument(services, root);
  CutStage stage(root,
                 {services.peaks, services.notes.loudness(), services.player, services.transport,
                  services.auditions, services.sources, services.printing},
                 nullptr);
  stage.resize(1180, 620);
  stage.show();
  for (int i = 0; i < 3; ++i) {
    services.wait();
    QCoreApplication::processEvents();
  }
  auto& wave = stage.wave();
  auto* drift = stage.findChild<DriftLine*>();
  auto* ruler = stage.findChild<FitRuler*>();
  const struct {
    const char* what;
    QWidget* widget;
    std::function<QPointF(int)> at;
  } drags[] = {{"an edge", &wave,
                [&](int i) {
                  const Cut& cut = findSource(services.document.project(), id)->cuts[500];
                  const double start = wave.xOf(double(cut.start.value));
                  return QPointF(start + (i == 0 ? 0 : (i % 2 ? 0.4 : -0.4)), wave.height() / 3.0);
                }},
               {"a pin", drift,
                [&](int i) {
                  const Cut& cut = findSource(services.document.project(), id)->cuts[500];
                  return QPointF(wave.xOf(double(cut.start.value)),
                                 drift->height() / 2.0 + (i == 0 ? 0 : 6 + i % 12));
                }},
               {"the fit ruler", ruler, [&](int i) {
                  return QPointF(ruler->width() / 2.0, ruler->height() * (0.3 + 0.02 * (i % 20)));
                }}};
  for (const auto& drag : drags) {
    std::vector<double> painting, answering;
    const std::size_t steps = services.document.history().names().size();
    send(*drag.widget, QEvent::MouseButtonPress, drag.at(0));
    for (int i = 1; i <= 60; ++i) {
      const auto begin = Clock::now();
      send(*drag.widget, QEvent::MouseMove, drag.at(i));
      answering.push_back(millisecondsSince(begin));
      const auto painted = Clock::now();
      QCoreApplication::processEvents(); // lays out and paints what has changed
      painting.push_back(millisecondsSince(painted));
    }
    send(*drag.widget, QEvent::MouseButtonRelease, drag.at(60));
    const bool moved = services.document.history().names().size() > steps;
    std::sort(painting.begin(), painting.end());
    std::sort(answering.begin(), answering.end());
    char text[100];
    std::snprintf(text, sizeof text, "dragging %s among 1000 slices: painted, 95th%s", drag.what,
                  moved ? "" : " (NOTHING MOVED)");
    report(text, painting[57], "ms", "< 10", moved && painting[57] < 10);
    std::snprintf(text, sizeof text, "  its score with the engine, 95th");
    report(text, answering[57], "ms", "-", true);
  }
}

} // namespace tuvvo

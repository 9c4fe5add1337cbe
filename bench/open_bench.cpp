#include "open_bench.h"

#include "base/random.h"
#include "formats/bundle.h"
#include "model/edits.h"
#include "shell/main_window.h"

#include <QCoreApplication>
#include <QElapsedTimer>
#include <QFileInfo>
#include <QTemporaryDir>
#include <QThread>
#include <QTimer>

#include <algorithm>
#include <cstdio>
#include <ctime>

namespace tuvvo {

namespace {

constexpr int kPatterns = 10, kParts = 8, kHitsALane = 12'500;

Project aMillionHits() {
  Project project;
  Samples samples(4800, 0.1f);
  Source sound;
  sound.name = "tick";
  sound.sound = std::make_shared<const Sound>(Channels{samples, samples}, Hertz(48000));
  sound.hash = sound.sound->hash();
  Id source = 0;
  project = withSource(std::move(project), sound, &source);
  std::vector<std::pair<Id, Id>> keys; // with their parts
  for (int i = 0; i < kParts; ++i) {
    Id key = 0;
    project = withKeySound(std::move(project), Row(1 + i % 3), i / 3, 0, {source, 0},
                           "part " + std::to_string(i), &key);
    keys.emplace_back(key, findKey(project, key)->part);
  }
  Random random(5);
  for (int p = 0; p < kPatterns; ++p) {
    Pattern made;
    made.name = "pattern " + std::to_string(p);
    made.bars = kMostBars;
    for (const auto& [key, part] : keys) {
      Lane& lane = laneOf(made, part);
      for (int n = 0; n < kHitsALane; ++n) {
        Hit hit;
        hit.at = Beats(lengthOf(made).value / kHitsALane * n);
        hit.key = key;
        hit.velocity = 0.2 + 0.8 * random.unit();
        lane.hits.push_back(hit);
      }
    }
    Id id = 0;
    project = withPattern(std::move(project), std::move(made), &id);
    Section section;
    section.pattern = id;
    section.bars = kMostBars;
    project = withSection(std::move(project), section, std::size_t(p));
  }
  return project;
}

/// Processor time of this thread, which other programs on the machine do not lengthen.
double ownSeconds() {
  timespec now{};
  clock_gettime(CLOCK_THREAD_CPUTIME_ID, &now);
  return double(now.tv_sec) + double(now.tv_nsec) / 1e9;
}

} // namespace

void benchOpening(Report report) {
  QTemporaryDir dir;
  const QString folder = dir.filePath("million.tuvvo");
  const Project million = aMillionHits();
  if (auto saved = saveProject(million, folder.toStdString(), {}); !saved) {
    std::fprintf(stderr, "%s\n", saved.error().text().c_str());
    return;
  }
  Services services;
  services.files.startNew();
  MainWindow window(services);
  window.showStage(Stage::Beat);
  window.show();
  services.wait();
  QCoreApplication::processEvents();
  QElapsedTimer whole, sinceTick;
  qint64 longest = 0;
  QTimer tick;
  QObject::connect(&tick, &QTimer::timeout, [&] {
    longest = std::max(longest, sinceTick.elapsed());
    sinceTick.restart();
  });
  tick.start(2);
  QCoreApplication::processEvents();
  whole.start();
  sinceTick.start();
  services.files.open(folder);
  const auto there = [&] {
    return services.document.project().patterns.size() == std::size_t(kPatterns);
  };
  while (!there() && whole.elapsed() < 120'000) QCoreApplication::processEvents();
  QCoreApplication::processEvents();
  const double seconds = double(whole.elapsed()) / 1000;
  while (sinceTick.elapsed() > 50) QCoreApplication::processEvents();
  report("opening a project of 1 000 000 hits", seconds, "s", "< 5", there() && seconds < 5);
  report("longest time without an answer while it opens", double(longest), "ms", "< 250",
         longest < 250);
  services.wait();
}

void benchAutosave(Report report) {
  QTemporaryDir home;
  qputenv("XDG_DATA_HOME", home.path().toUtf8());
  Services services;
  services.files.startDemo();
  MainWindow window(services);
  window.showStage(Stage::Keys);
  window.show();
  services.wait();
  Random random(4);
  Samples hour(std::size_t(3600) * 48'000);
  for (float& v : hour) v = float(std::floor(random.bipolar() * 8e5)) / 8388608.0f;
  Source source;
  source.name = "an hour";
  source.sound = std::make_shared<Sound>(Channels{std::move(hour)}, Hertz(48'000));
  source.hash = source.sound->hash();
  source.heard = Analysis{};
  services.document.edit("add", withSource(services.document.project(), std::move(source)));
  services.wait();
  const Id key = services.document.project().keys.front().id;
  const QString autosave =
      QString::fromStdString((services.files.folder() / "autosave.json").string());
  QElapsedTimer whole, hold;
  std::vector<double> holds, busy;
  // What the new source made the window do is no part of the drag.
  for (whole.start(); whole.elapsed() < 500;) QCoreApplication::processEvents();
  whole.restart();
  // As a drag does: a step of the slide, and whatever the loop has to do until the next one.
  for (int step = 0; whole.elapsed() < 120'000; ++step) {
    hold.start();
    const double began = ownSeconds();
    services.document.edit("drag",
                           withKeyChanged(services.document.project(), key,
                                          [&](Key& k) { k.level = Decibels(-(step % 40) / 2.0); }),
                           "drag");
    QCoreApplication::processEvents();
    holds.push_back(double(hold.nsecsElapsed()) / 1e6);
    busy.push_back((ownSeconds() - began) * 1000);
    QThread::msleep(8);
    if (QFileInfo::exists(autosave) && whole.elapsed() > 12'000) break;
  }
  std::sort(holds.begin(), holds.end());
  std::sort(busy.begin(), busy.end());
  std::printf("  (%zu steps of the drag; half of them hold the window %.2f ms, 99 of 100 %.2f ms; "
              "the longest that its thread worked at one is %.2f ms, the rest is waiting)\n",
              holds.size(), holds[holds.size() / 2], holds[holds.size() * 99 / 100], busy.back());
  report("autosave of an hour of sound during a drag: longest hold", holds.back(), "ms", "< 16",
         QFileInfo::exists(autosave) && holds.back() < 16);
  services.wait();
}

} // namespace tuvvo

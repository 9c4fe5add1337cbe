#include "face_bench.h"

#include "gallery/screen_texts.h"
#include "gallery/screens.h"
#include "shell/main_window.h"
#include "theme/theme.h"
#include "widgets/control_row.h"
#include "widgets/flow_row.h"
#include "widgets/slide.h"

#include <QAbstractButton>
#include <QComboBox>
#include <QCoreApplication>
#include <QElapsedTimer>
#include <QLineEdit>
#include <QRegularExpression>
#include <QTemporaryDir>

#include <algorithm>
#include <cstdio>
#include <ctime>
#include <set>

namespace tuvvo {

namespace {

int wordsOf(QWidget& window) {
  static const QRegularExpression letter(QStringLiteral("\\p{L}"));
  int words = 0;
  for (const auto& text : textsOf(window))
    for (const auto& word : text.text.split(QLatin1Char(' '), Qt::SkipEmptyParts))
      words += word.contains(letter) ? 1 : 0;
  return words;
}

bool seen(const QWidget& widget) { return widget.isVisible() && !widget.visibleRegion().isEmpty(); }

/// Buttons, choices, figures and fields that can be seen, and how many looks they have.
struct Controls {
  int count = 0;
  std::set<QString> looks;
};
Controls controlsIn(const QWidget& in) {
  Controls out;
  for (auto* widget : in.findChildren<QWidget*>()) {
    const bool field =
        qobject_cast<QLineEdit*>(widget) && !qobject_cast<QComboBox*>(widget->parentWidget());
    const bool control = qobject_cast<QAbstractButton*>(widget) ||
                         qobject_cast<QComboBox*>(widget) || qobject_cast<Slide*>(widget) || field;
    if (!control || !seen(*widget)) continue;
    ++out.count;
    const QVariant look = widget->property("look");
    out.looks.insert(QLatin1String(widget->metaObject()->className()) + look.toString());
  }
  return out;
}

/// Rows that go on in a second line, and rows that are narrower than they can be.
int wrappedRowsIn(const QWidget& in) {
  int rows = 0;
  for (auto* row : in.findChildren<ControlRow*>())
    rows += seen(*row) && row->width() < row->minimumSizeHint().width() ? 1 : 0;
  for (auto* row : in.findChildren<FlowRow*>()) {
    auto* holder = row->parentWidget();
    if (!holder || !seen(*holder)) continue;
    int tallest = 0;
    for (int i = 0; i < row->count(); ++i)
      if (!row->itemAt(i)->isEmpty())
        tallest = std::max(tallest, row->itemAt(i)->sizeHint().height());
    rows += row->geometry().height() > tallest + 2 ? 1 : 0;
  }
  return rows;
}

void settle(Services& services) {
  for (int i = 0; i < 3; ++i) {
    services.wait();
    QCoreApplication::processEvents();
  }
}

/// Time of this thread on the processor: other programs do not lengthen it.
double ownMs() {
  timespec now{};
  clock_gettime(CLOCK_THREAD_CPUTIME_ID, &now);
  return double(now.tv_sec) * 1e3 + double(now.tv_nsec) / 1e6;
}

/// Painting a stage while the beat plays: the middle and the 95th percentile.
std::pair<double, double> paintMs(QWidget& stage) {
  std::vector<double> whole;
  for (int i = 0; i < 60; ++i) {
    QElapsedTimer frame;
    for (frame.start(); frame.elapsed() < 5;) QCoreApplication::processEvents();
    const double before = ownMs();
    stage.repaint();
    whole.push_back(ownMs() - before);
  }
  std::sort(whole.begin(), whole.end());
  return {whole[whole.size() / 2], whole[whole.size() * 95 / 100]};
}

/// As a person has it who has worked for a while: a section, a pattern and a slice are chosen.
void choose(Document& document, const char* pattern) {
  const Project& p = document.project();
  if (p.sections.size() > 2)
    document.select(withSectionChosen(document.selection(), p, p.sections[2].id));
  for (const auto& each : p.patterns)
    if (each->name == pattern) document.select(withPatternChosen(document.selection(), each->id));
}

} // namespace

void benchFace(Report report) {
  QTemporaryDir home;
  for (const char* place : {"XDG_DATA_HOME", "XDG_CONFIG_HOME"})
    qputenv(place, home.path().toUtf8());
  Services services;
  MainWindow window(services);
  services.files.startDemo();
  services.player.openSound({OutputChoice::Simulated});
  window.resize(1280, 800);
  window.show();
  settle(services);
  services.transport.play();
  std::printf("%-32s %6s %9s %6s %8s %10s %10s\n", "screen", "words", "controls", "looks",
              "wrapped", "paint, ms", "95 %, ms");
  double slowest = 0;
  int wrapped = 0;
  for (const auto& [stage, panel] : kScreens) {
    const std::string name = panel;
    choose(services.document, name == "bass" || name == "change" ? "Slipway" : "Crossing");
    window.showStage(stage);
    if (!name.empty() && !window.showPanel(stage, panel))
      std::fprintf(stderr, "no panel %s\n", panel);
    settle(services);
    (void)window.grab(); // lays everything out
    settle(services);
    const Controls controls = controlsIn(window);
    const int rows = wrappedRowsIn(window);
    const auto [usual, slow] = paintMs(window.view(stage));
    wrapped += rows;
    slowest = std::max(slowest, slow);
    std::printf("%-32s %6d %9d %6zu %8d %10.2f %10.2f\n",
                (std::string(std::array{"crate ", "cut ", "keys ", "beat ", "song ",
                                        "print "}[std::size_t(stage)]) +
                 name)
                    .c_str(),
                wordsOf(window), controls.count, controls.looks.size(), rows, usual, slow);
  }
  services.transport.stop();
  report("rows that wrap or are cut off at 1280x800", wrapped, "", "0", wrapped == 0);
  report("slowest stage to paint, 95th percentile", slowest, "ms", "< 8", slowest < 8);
}

} // namespace tuvvo

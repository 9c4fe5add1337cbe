#include "face_bench.h"

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
#include <QPaintEngine>
#include <QRegularExpression>
#include <QTemporaryDir>

#include <algorithm>
#include <cstdio>
#include <ctime>
#include <set>

namespace tuvvo {

namespace {

struct Screen {
  Stage stage;
  const char* panel;
};
constexpr Screen kScreens[] = {
    {Stage::Crate, "beat/lantern row"},
    {Stage::Crate, "service"},
    {Stage::Crate, "papers"},
    {Stage::Cut, "lantern row/sound"},
    {Stage::Cut, "lantern row/edges"},
    {Stage::Cut, "lantern row/playing"},
    {Stage::Cut, "pier nine break/treat"},
    {Stage::Cut, "lantern row/match"},
    {Stage::Cut, "lantern row/out"},
    {Stage::Keys, "kick/level"},
    {Stage::Keys, "kick/envelope"},
    {Stage::Keys, "kick/filters"},
    {Stage::Keys, "kick/layers"},
    {Stage::Keys, "takes"},
    {Stage::Keys, "catch"},
    {Stage::Keys, "controllers"},
    {Stage::Beat, "feel"},
    {Stage::Beat, "pins"},
    {Stage::Beat, "break"},
    {Stage::Beat, "bass"},
    {Stage::Beat, "change"},
    {Stage::Beat, "room"},
    {Stage::Song, ""},
    {Stage::Print, ""},
};

/// Draws nothing and keeps the words that are drawn within a box.
class WordEngine : public QPaintEngine {
public:
  explicit WordEngine(const QRectF& box) : QPaintEngine(AllFeatures), m_box(box) {}
  bool begin(QPaintDevice*) override { return true; }
  bool end() override { return true; }
  void updateState(const QPaintEngineState&) override {}
  void drawPixmap(const QRectF&, const QPixmap&, const QRectF&) override {}
  void drawPath(const QPainterPath&) override {}
  void drawPolygon(const QPointF*, int, PolygonDrawMode) override {}
  void drawTextItem(const QPointF& at, const QTextItem& item) override {
    if (!m_box.contains(painter()->deviceTransform().map(at))) return;
    static const QRegularExpression letter(QStringLiteral("\\p{L}"));
    for (const auto& word : item.text().split(QLatin1Char(' '), Qt::SkipEmptyParts))
      m_words += word.contains(letter) ? 1 : 0;
  }
  [[nodiscard]] Type type() const override { return User; }
  [[nodiscard]] int words() const { return m_words; }

private:
  QRectF m_box;
  int m_words = 0;
};

class WordSheet : public QPaintDevice {
public:
  explicit WordSheet(QSize size) : m_size(size), m_engine(QRectF({}, size)) {}
  [[nodiscard]] QPaintEngine* paintEngine() const override { return &m_engine; }
  [[nodiscard]] int words() const { return m_engine.words(); }

protected:
  [[nodiscard]] int metric(PaintDeviceMetric metric) const override {
    switch (metric) {
    case PdmWidth:
      return m_size.width();
    case PdmHeight:
      return m_size.height();
    case PdmDpiX:
    case PdmDpiY:
    case PdmPhysicalDpiX:
    case PdmPhysicalDpiY:
      return 96;
    case PdmDevicePixelRatio:
      return 1;
    case PdmDevicePixelRatioScaled:
      return int(devicePixelRatioFScale());
    default:
      return QPaintDevice::metric(metric);
    }
  }

private:
  QSize m_size;
  mutable WordEngine m_engine;
};

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
    WordSheet sheet(window.size());
    window.render(&sheet);
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
                sheet.words(), controls.count, controls.looks.size(), rows, usual, slow);
  }
  services.transport.stop();
  report("rows that wrap or are cut off at 1280x800", wrapped, "", "0", wrapped == 0);
  report("slowest stage to paint, 95th percentile", slowest, "ms", "< 8", slowest < 8);
}

} // namespace tuvvo

// What holds on every screen: contrast of what is written, a name for every control, a palette that
// changes at once.
#include "app/demo_window.h"
#include "gallery/screen_texts.h"
#include "gallery/screens.h"
#include "patience.h"
#include "widgets/button.h"

#include <QAccessible>
#include <QSettings>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// The colour that most of a box has: what a text in it stands on.
QColor groundIn(const QImage& picture, const QRectF& box) {
  std::map<QRgb, int> counts;
  const QRect area = box.toAlignedRect().intersected(picture.rect());
  for (int y = area.top(); y <= area.bottom(); ++y)
    for (int x = area.left(); x <= area.right(); ++x) ++counts[picture.pixel(x, y)];
  QRgb most = 0;
  int count = 0;
  for (const auto& [colour, times] : counts)
    if (times > count) {
      most = colour;
      count = times;
    }
  return QColor(most);
}

} // namespace

class TestLooks : public QObject, DemoWindow {
  Q_OBJECT

  void showScreen(const Screen& screen) {
    m_window->showStage(screen.stage);
    if (*screen.panel) QVERIFY2(m_window->showPanel(screen.stage, screen.panel), screen.panel);
    settle();
    (void)m_window->grab(); // lays everything out
    settle();
  }

private slots:
  void initTestCase() { prepare(); }
  void init() { QVERIFY(openDemo()); }
  void cleanup() {
    theme::apply(*qApp, false, 1.0);
    closeDemo();
  }

  void whatIsWrittenCanBeRead_data() {
    QTest::addColumn<bool>("day");
    QTest::newRow("dusk") << false;
    QTest::newRow("daylight") << true;
  }

  /// WCAG 2.1, 1.4.3: text at least 4.5 : 1; what cannot be used now is exempt.
  void whatIsWrittenCanBeRead() {
    QFETCH(bool, day);
    theme::setDaylight(*qApp, day);
    int read = 0;
    QStringList bad;
    for (const auto& screen : kScreens) {
      showScreen(screen);
      const QImage picture = m_window->grab().toImage();
      for (const auto& text : textsOf(*m_window)) {
        const QWidget* at = m_window->childAt(text.box.center().toPoint());
        if (at && !at->isEnabled()) continue;
        ++read;
        const QColor ground = groundIn(picture, text.box);
        const double contrast = theme::contrast(text.ink, ground);
        if (contrast < 4.5)
          bad << QString("%1 %2: \"%3\" %4 on %5: %6")
                     .arg(int(screen.stage))
                     .arg(screen.panel, text.text, text.ink.name(), ground.name())
                     .arg(contrast, 0, 'f', 2);
      }
    }
    bad.removeDuplicates();
    for (const auto& each : bad) qWarning("%s", qPrintable(each));
    QVERIFY(bad.isEmpty());
    QVERIFY(read > 2000);
  }

  /// WCAG 2.1, 1.4.3 and 1.4.11, of the palette itself: text at least 4.5 : 1, marks 3 : 1.
  void coloursHaveContrast() {
    for (const auto& c : {theme::dusk(), theme::daylight()}) {
      for (const QColor& ground : {c.ground, c.panel, c.raised}) {
        for (const QColor& ink : {c.text, c.quiet})
          QVERIFY2(theme::contrast(ink, ground) >= 4.5, qPrintable(ink.name() + ground.name()));
        for (const QColor& mark : {c.brass, c.mint, c.coral, c.slate, c.lilac})
          QVERIFY2(theme::contrast(mark, ground) >= 3.0, qPrintable(mark.name() + ground.name()));
      }
      QVERIFY(theme::contrast(c.ground, c.brass) >= 4.5); // text on a chosen segment
    }
  }

  /// WCAG 2.1, 1.4.11: a mark that steps back is still seen, and what is stronger looks stronger.
  void marksThatStepBackAreSeen() {
    for (const auto& c : {theme::dusk(), theme::daylight()})
      for (const QColor& ground : {c.ground, c.panel, c.raised})
        for (const QColor& ink : {c.text, c.quiet, c.brass, c.mint, c.coral, c.slate, c.lilac}) {
          double before = 0;
          for (double strength : {0.0, 0.5, 1.0}) {
            const double contrast = theme::contrast(theme::markOf(ink, ground, strength), ground);
            QVERIFY2(contrast >= 3.0, qPrintable(ink.name() + ground.name()));
            QVERIFY(contrast > before);
            before = contrast;
          }
          QCOMPARE(theme::markOf(ink, ground, 1), ink);
          // The palest is no darker than it must be.
          QVERIFY(theme::contrast(theme::markOf(ink, ground, 0), ground) < 3.2);
        }
  }

  void everyControlHasRoleNameAndState() {
    int seen = 0;
    QStringList bad;
    for (const auto& screen : kScreens) {
      showScreen(screen);
      std::vector<QAccessibleInterface*> open{
          QAccessible::queryAccessibleInterface(m_window.get())};
      while (!open.empty()) {
        QAccessibleInterface* each = open.back();
        open.pop_back();
        for (int i = 0; i < each->childCount(); ++i)
          if (auto* child = each->child(i)) open.push_back(child);
        auto* widget = qobject_cast<QWidget*>(each->object());
        if (!widget || !widget->isVisible() || widget->focusPolicy() == Qt::NoFocus) continue;
        ++seen;
        const QString name = each->text(QAccessible::Name);
        const QString who = QString("%1 %2: %3 \"%4\"")
                                .arg(int(screen.stage))
                                .arg(screen.panel, widget->metaObject()->className(), name);
        if (name.isEmpty()) bad << who + " has no name";
        if (each->role() == QAccessible::NoRole) bad << who + " has no role";
        if (qobject_cast<QAbstractButton*>(widget) && each->role() == QAccessible::Client)
          bad << who + " is no button";
        if (each->state().disabled == widget->isEnabled()) bad << who + " hides that it is off";
        if (auto* button = qobject_cast<QAbstractButton*>(widget);
            button && button->isCheckable() && each->state().checked != button->isChecked())
          bad << who + " hides that it is on";
        if (auto* slide = qobject_cast<Slide*>(widget)) {
          auto* value = each->valueInterface();
          if (each->role() != QAccessible::Slider || !value)
            bad << who + " is no slider";
          else if (value->currentValue().toDouble() != slide->value())
            bad << who + " hides its figure";
        }
      }
    }
    bad.removeDuplicates();
    for (const auto& each : bad) qWarning("%s", qPrintable(each));
    QVERIFY(bad.isEmpty());
    QVERIFY(seen > 400);
  }

  /// A stage has one next step, and every step that is shown so can be done.
  void thereIsAtMostOneNextStep() {
    QStringList without;
    for (const auto& screen : kScreens) {
      showScreen(screen);
      QStringList next;
      for (auto* button : m_window->view(screen.stage).findChildren<Button*>())
        if (button->isVisible() && button->isEnabled() && button->weight() == Button::Weight::Next)
          next << button->text();
      QVERIFY2(next.size() <= 1, qPrintable(next.join(", ") + " on " + screen.panel));
      if (next.isEmpty()) without << QLatin1String(screen.panel);
    }
    QVERIFY2(without.isEmpty(), qPrintable(without.join(", ")));
  }

  /// Pictures are copied while nothing of them changes; after any change they are what they would
  /// be if they were drawn from nothing (which another size forces).
  void keptPicturesAreNeverStale() {
    const auto fresh = [](QWidget& panel) {
      const QSize size = panel.size();
      panel.resize(size + QSize(1, 0));
      (void)panel.grab();
      panel.resize(size);
      return panel.grab().toImage();
    };
    auto& document = m_services->document;
    const auto choose = [&](const Selection& selection) { document.select(selection); };
    const auto change = [&](const auto& how) {
      Project next = project();
      how(next);
      document.edit("Change", next);
      document.settle();
    };
    const std::vector<std::pair<const char*, std::function<void()>>> acts{
        {"another source", [&] { choose(withSourceChosen(document.selection(), 2)); }},
        {"another key",
         [&] { choose(withKeyChosen(document.selection(), project(), project().keys[3].id)); }},
        {"another section",
         [&] {
           choose(withSectionChosen(document.selection(), project(), project().sections.back().id));
         }},
        {"another tempo and key",
         [&] {
           change([](Project& p) {
             p.tempo = Bpm(101);
             p.key = KeyName{5, true};
           });
         }},
        {"another sound of every key",
         [&] {
           change([](Project& p) {
             for (auto& key : p.keys) {
               key.envelope.attack = Milliseconds(80);
               key.lowPass = Hertz(700);
               key.name += " two";
             }
           });
         }},
        {"other cuts",
         [&] {
           change([](Project& p) {
             for (const auto& source : std::vector(p.sources))
               p = withSourceChanged(p, source->id, [](Source& each) {
                 for (auto& cut : each.cuts) cut.start += Frames(500);
               });
           });
         }},
        {"a step back", [&] { document.undo(); }},
    };
    int compared = 0, moved = 0;
    for (const auto& screen : kScreens) {
      showScreen(screen);
      QWidget& stage = m_window->view(screen.stage);
      QList<QWidget*> panels;
      for (auto* panel : stage.findChildren<PicturePanel*>())
        if (panel->isVisible()) panels << panel;
      for (auto* wave : stage.findChildren<WaveView*>())
        if (wave->isVisible()) panels << wave;
      const auto compare = [&](const char* after) {
        settle();
        for (auto* panel : panels) {
          if (!panel->isVisible()) continue;
          const QImage now = panel->grab().toImage();
          ++compared;
          QVERIFY2(
              now == fresh(*panel),
              qPrintable(
                  QString("%1 on %2, after %3").arg(panel->accessibleName(), screen.panel, after)));
        }
      };
      for (const auto& [name, act] : acts) {
        std::vector<QImage> before;
        for (auto* panel : panels) before.push_back(panel->grab().toImage());
        act();
        compare(name);
        for (int i = 0; i < panels.size(); ++i)
          moved += panels[i]->isVisible() && panels[i]->grab().toImage() != before[std::size_t(i)];
      }
      for (auto* panel : panels) {
        panel->setFocus();
        compare("its focus");
      }
    }
    QVERIFY(compared > 200);
    QVERIFY2(moved > 40, qPrintable(QString::number(moved))); // and they did change
  }

  void thePaletteChangesAtOnce() {
    const auto picture = [&](Stage stage) {
      m_window->showStage(stage);
      settle();
      (void)m_window->grab();
      return m_window->view(stage).grab().toImage();
    };
    std::vector<QImage> changed;
    for (int s = 0; s < 6; ++s) (void)picture(Stage(s)); // all is painted once, in dusk
    command(*m_window, "Dusk or daylight");
    QVERIFY(theme::isDaylight());
    EVENTUALLY(!m_services->meter.measure().barLoudness.empty());
    for (int s = 0; s < 6; ++s) changed.push_back(picture(Stage(s)));
    closeDemo();
    theme::apply(*qApp, true, 1.0); // as the next start has it
    QVERIFY(openDemo());
    EVENTUALLY(!m_services->meter.measure().barLoudness.empty());
    for (int s = 0; s < 6; ++s) {
      const QImage fresh = picture(Stage(s));
      QCOMPARE(fresh.size(), changed[std::size_t(s)].size());
      int differ = 0;
      for (int y = 0; y < fresh.height(); ++y)
        for (int x = 0; x < fresh.width(); ++x)
          differ += fresh.pixel(x, y) != changed[std::size_t(s)].pixel(x, y);
      QVERIFY2(differ < 200, qPrintable(QString("stage %1: %2 pixels").arg(s).arg(differ)));
    }
    QVERIFY(QSettings().value("daylight").toBool()); // and it stays
  }
};

QTEST_MAIN(TestLooks)
#include "tst_looks.moc"

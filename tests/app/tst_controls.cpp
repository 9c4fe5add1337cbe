// The controls that every stage is made of, and the way from two sounds to a beat by what the
// screen offers as the next step.
#include "app/demo_window.h"
#include "gallery/gallery.h"
#include "patience.h"
#include "widgets/button.h"
#include "widgets/control_row.h"
#include "widgets/empty_place.h"
#include "widgets/segments.h"
#include "widgets/tabs.h"
#include "widgets/tick.h"

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// How many pixels differ between two pictures of a widget.
int differing(const QImage& a, const QImage& b) {
  int count = 0;
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x) count += a.pixel(x, y) != b.pixel(x, y);
  return count;
}
QImage pictureOf(QWidget& widget) { return widget.grab().toImage(); }

} // namespace

class TestControls : public QObject, DemoWindow {
  Q_OBJECT

private slots:
  void initTestCase() { prepare(); }
  void cleanup() { closeDemo(); }

  void everyMeaningHasALookOfItsOwn() {
    Button plain("Same"), next("Same"), danger("Same"), opens("Same");
    next.setWeight(Button::Weight::Next);
    danger.setWeight(Button::Weight::Danger);
    opens.setOpens(true);
    Tick tick("Same");
    for (QWidget* widget : std::initializer_list<QWidget*>{&plain, &next, &danger, &opens, &tick})
      widget->resize(120, 28);
    const std::array pictures{pictureOf(plain), pictureOf(next), pictureOf(danger),
                              pictureOf(opens), pictureOf(tick)};
    for (std::size_t i = 0; i < pictures.size(); ++i)
      for (std::size_t j = i + 1; j < pictures.size(); ++j)
        QVERIFY2(differing(pictures[i], pictures[j]) > 40,
                 qPrintable(QString("%1 %2").arg(i).arg(j)));
    const QImage off = pictureOf(tick);
    tick.setChecked(true);
    QVERIFY(differing(off, pictureOf(tick)) > 40);
  }

  void aPressOnATabOrASegmentAsksAndDoesNotChooseByItself() {
    Tabs tabs("Views");
    Segments ways("Ways");
    for (const char* text : {"One", "Two", "Three"}) {
      tabs.add(text, {});
      ways.add(text, {});
    }
    QSignalSpy tab(&tabs, &Tabs::wanted), way(&ways, &Segments::wanted);
    tabs.show();
    ways.show();
    QTest::mouseClick(tabs.tab(2), Qt::LeftButton);
    QTest::mouseClick(ways.segment(1), Qt::LeftButton);
    QCOMPARE(tab.last()[0].toInt(), 2);
    QCOMPARE(way.last()[0].toInt(), 1);
    QVERIFY(tabs.tab(0)->isChecked() && !tabs.tab(2)->isChecked());
    QVERIFY(!ways.segment(1)->isChecked());
    ways.choose(1);
    QVERIFY(ways.segment(1)->isChecked() && ways.chosen() == 1);
    QTest::keyClick(tabs.tab(0), Qt::Key_Right);
    QCOMPARE(tab.last()[0].toInt(), 1);
    ways.activateWindow();
    QVERIFY(QTest::qWaitForWindowActive(&ways));
    ways.segment(1)->setFocus(Qt::TabFocusReason);
    QTest::keyClick(ways.segment(1), Qt::Key_Left);
    QCOMPARE(way.last()[0].toInt(), 0);
  }

  void severalSegmentsAreOnAtOnce() {
    Segments kinds("Kinds", Segments::Picks::Several);
    kinds.add(HitClass::Kick, "kicks", {});
    kinds.add(HitClass::Snare, "snares", {});
    kinds.show();
    for (int i : {0, 1}) QTest::mouseClick(kinds.segment(i), Qt::LeftButton);
    QVERIFY(kinds.isOn(0) && kinds.isOn(1));
    QTest::mouseClick(kinds.segment(0), Qt::LeftButton);
    QVERIFY(!kinds.isOn(0) && kinds.isOn(1));
  }

  void aRowNeverWrapsAndLosesNothing() {
    QWidget window;
    auto* row = ControlRow::in(&window);
    QList<Button*> buttons;
    for (int i = 0; i < 6; ++i) {
      buttons << new Button(QString("Button %1").arg(i));
      row->add(buttons.last(), i == 0   ? ControlRow::Stays::Always
                               : i == 5 ? ControlRow::Stays::UnderMore
                                        : ControlRow::Stays::IfThereIsRoom);
    }
    window.resize(1000, 60);
    window.show();
    QCoreApplication::processEvents();
    const auto shown = [&] {
      int count = 0;
      for (auto* button : buttons) count += button->isVisible() && button->parentWidget() == row;
      return count;
    };
    QCOMPARE(shown(), 5);
    QVERIFY(row->more()->isVisible());
    const int all = row->height();
    int before = 5;
    for (int width : {600, 400, 250, 190}) {
      window.resize(width, 60);
      QCoreApplication::processEvents();
      QVERIFY(shown() <= before && row->height() == all);
      before = shown();
      for (auto* button : buttons) // what is shown lies within the row
        if (button->isVisible()) QVERIFY(button->geometry().right() < width);
    }
    QCOMPARE(before, 1); // what always stays
    QTest::mouseClick(row->more(), Qt::LeftButton);
    for (int i = 1; i < 6; ++i) QVERIFY2(buttons[i]->isVisible(), qPrintable(buttons[i]->text()));
    buttons[3]->hide(); // hidden ones are hidden there too
    QVERIFY(!buttons[3]->isVisible());
    window.resize(1000, 60);
    QCoreApplication::processEvents();
    QVERIFY(!buttons[3]->isVisible() && shown() == 4);
    buttons[3]->show();
    QCoreApplication::processEvents();
    QCOMPARE(shown(), 5);
  }

  void everySignHasItsDrawing() {
    QSet<QByteArray> pictures;
    for (int i = 1; i < int(Sign::Count); ++i) {
      QImage image(32, 32, QImage::Format_ARGB32);
      image.fill(Qt::transparent);
      QPainter p(&image);
      drawSign(p, Sign(i), QRectF(0, 0, 32, 32), Qt::white);
      p.end();
      int inked = 0;
      for (int y = 0; y < 32; ++y)
        for (int x = 0; x < 32; ++x) inked += qAlpha(image.pixel(x, y)) > 128;
      QVERIFY2(inked > 40, fileOf(Sign(i)));
      pictures << QByteArray(reinterpret_cast<const char*>(image.bits()), image.sizeInBytes());
    }
    QCOMPARE(int(pictures.size()), int(Sign::Count) - 1); // no two alike
  }

  void theGalleryShowsItselfInBothPalettes() {
    for (bool day : {false, true}) {
      theme::apply(*qApp, day, 1.0);
      Gallery gallery;
      for (const char* page : {"buttons", "choices", "figures", "words", "signs"}) {
        QVERIFY2(gallery.showPage(page), page);
        QVERIFY(!gallery.grab().isNull());
      }
      QVERIFY(!gallery.showPage("nothing"));
    }
    theme::apply(*qApp, false, 1.0);
  }

  /// By pressing nothing but what is filled as the next step.
  void fromTwoSoundsToAPlayingBeatByTheNextStepAlone() {
    QVERIFY(openDemo());
    m_services->files.startNew();
    settle();
    m_window->showStage(Stage::Crate);
    m_services->sources.importFiles(
        {TUVVO_DATA_DIR "/demo/lantern row.flac", TUVVO_DATA_DIR "/demo/pier nine break.flac"});
    const auto heard = [&] {
      int count = 0;
      for (const auto& source : project().sources) count += !source->kit && source->heard;
      return count == 2;
    };
    EVENTUALLY(heard());
    settle();
    selectSource(*m_services, sourceNamed("lantern row"));
    settle();
    const auto next = [&]() -> Button* {
      for (auto* button : m_window->findChildren<Button*>())
        if (button->isVisible() && button->isEnabled() && button->weight() == Button::Weight::Next)
          return button;
      return nullptr;
    };
    QStringList presses;
    while (!m_services->transport.playing() && presses.size() < 12) {
      Button* button = next();
      QVERIFY2(button, qPrintable(presses.join(", ")));
      presses << button->text();
      press(button);
      settle();
    }
    qInfo("%d presses: %s", int(presses.size()), qPrintable(presses.join(", ")));
    QVERIFY2(presses.size() <= 8, qPrintable(presses.join(", ")));
    const PatternPtr pattern = findPattern(project(), m_services->document.selection().pattern);
    QVERIFY(pattern && pattern->bars >= 4);
    QVERIFY(std::any_of(pattern->lanes.begin(), pattern->lanes.end(),
                        [](const Lane& lane) { return lane.hits.size() >= 8; }));
    QVERIFY(std::abs(project().tempo.value - 91.78) < 0.02 && project().key);
    EVENTUALLY(m_services->player.engine().sounding() > 0);
    m_services->transport.stop();
  }

  void onlyOneNextStepIsShownOnAStage() {
    QVERIFY(openDemo());
    for (int stage = 0; stage < 6; ++stage) {
      m_window->showStage(Stage(stage));
      settle();
      QStringList shown;
      for (auto* button : m_window->view(Stage(stage)).findChildren<Button*>())
        if (button->isVisible() && button->weight() == Button::Weight::Next)
          shown << button->text();
      QVERIFY2(shown.size() == 1, qPrintable(QString("%1: %2").arg(stage).arg(shown.join(", "))));
    }
  }
};

QTEST_MAIN(TestControls)
#include "tst_controls.moc"

// Everything is found by name: commands, and every control wherever it lies.
#include "app/demo_window.h"
#include "gallery/screens.h"
#include "shell/finder.h"
#include "shell/rail.h"
#include "widgets/more_panel.h"
#include "widgets/reveal.h"
#include "widgets/slide.h"
#include "widgets/tick.h"

#include <QLineEdit>
#include <QListWidget>

using namespace tuvvo;
using namespace tuvvo::test;

class TestFinder : public QObject, DemoWindow {
  Q_OBJECT

  /// Types a name into the finder and takes the entry with that text.
  bool take(const QString& name, const QString& entry) {
    command(*m_window, "Find a command");
    auto* finder = m_window->findChild<Finder*>();
    finder->findChild<QLineEdit*>()->setText(name);
    auto* list = finder->findChild<QListWidget*>();
    const auto found = list->findItems(entry, Qt::MatchExactly);
    if (found.size() != 1) return false;
    list->setCurrentItem(found.front());
    QTest::keyClick(finder->findChild<QLineEdit*>(), Qt::Key_Return);
    settle();
    return true;
  }

private slots:
  void initTestCase() { prepare(); }
  void init() { QVERIFY(openDemo()); }
  void cleanup() { closeDemo(); }

  void whatLiesUnderMoreIsFoundFromAnyStage() {
    int under = 0, focused = 0;
    for (const auto& screen : kScreens) {
      m_window->showStage(screen.stage);
      if (*screen.panel) QVERIFY(m_window->showPanel(screen.stage, screen.panel));
      settle();
      StageView& view = m_window->view(screen.stage);
      const auto all = controlsIn({{&view, screen.stage}});
      for (auto* more : view.findChildren<MorePanel*>()) {
        if (!more->button()->isVisible()) continue; // nothing lies under it
        for (auto* widget : more->findChildren<QWidget*>()) {
          if (widget->focusPolicy() == Qt::NoFocus || !widget->isEnabled() ||
              !widget->isVisibleTo(more) || qobject_cast<QComboBox*>(widget->parentWidget()))
            continue;
          ++under;
          const auto found = std::find_if(all.begin(), all.end(),
                                          [&](const auto& each) { return each.control == widget; });
          QVERIFY2(found != all.end(), qPrintable(widget->accessibleName()));
          // From another stage, and another part of it.
          m_window->showStage(screen.stage == Stage::Song ? Stage::Print : Stage::Song);
          QVERIFY(!widget->isVisible());
          if (qobject_cast<QAbstractButton*>(widget)) { // pressing it may open a dialog
            m_window->showStage(screen.stage);
            WayTo(*m_window).reveal(*widget, view);
          } else {
            ++focused;
            QVERIFY2(take(found->name,
                          QStringLiteral("%1, on %2").arg(found->name, stageName(screen.stage))),
                     qPrintable(found->name));
            QCOMPARE(m_window->stage(), screen.stage);
            QVERIFY2(widget->hasFocus() || widget->isAncestorOf(QApplication::focusWidget()),
                     qPrintable(found->name));
          }
          QVERIFY2(widget->isVisible(), qPrintable(found->name));
          more->toggle();
          QVERIFY(!widget->isVisible());
        }
      }
    }
    QVERIFY2(under > 40, qPrintable(QString::number(under)));
    QVERIFY2(focused > 15, qPrintable(QString::number(focused)));
  }

  /// A stage that was never shown has its controls too.
  void aStageThatWasNeverShownIsReached() {
    const Key* kick = keyAt(project(), Row::Floor, 0, 0);
    m_window->view(Stage::Song).selectKey(kick->id);
    m_window->showStage(Stage::Song);
    QVERIFY(take("high-pass", "High-pass, on Keys"));
    QCOMPARE(m_window->stage(), Stage::Keys);
    QVERIFY(qobject_cast<Slide*>(QApplication::focusWidget()));
    QCOMPARE(QApplication::focusWidget()->accessibleName(), "High-pass");
  }

  /// In a low window what lines a source up lies under a tab; what cannot be shown is not offered.
  void aLowWindowHidesNothingFromIt() {
    m_window->resize(1024, 600);
    m_window->showStage(Stage::Cut);
    settle();
    auto* straighten = slide(m_window->view(Stage::Cut), "Straighten");
    QVERIFY(!straighten->isVisible());
    QVERIFY(take("straighten", "Straighten, on Cut"));
    QVERIFY(straighten->isVisible() && straighten->hasFocus());
    m_window->resize(1280, 800);
    m_window->showStage(Stage::Keys);
    settle();
    QVERIFY(take("velocity variation", "Velocity variation, on Keys"));
    QVERIFY(m_window->showPanel(Stage::Keys, "catch")); // the hand's figures leave
    settle();
    QVERIFY(!take("velocity variation", "Velocity variation, on Keys"));
  }

  void tabsWithinTabsAreOpenedOnTheWay() {
    m_window->showStage(Stage::Keys);
    QVERIFY(m_window->showPanel(Stage::Keys, "kick/level"));
    QVERIFY(m_window->showPanel(Stage::Keys, "controllers"));
    m_window->showStage(Stage::Crate);
    QVERIFY(take("attack", "Attack, on Keys"));
    QCOMPARE(m_window->stage(), Stage::Keys);
    auto* slide = qobject_cast<Slide*>(QApplication::focusWidget());
    QVERIFY(slide);
    QCOMPARE(slide->accessibleName(), "Attack");
    QVERIFY(slide->isVisible());
  }

  void whatIsPressedIsPressed() {
    m_window->showStage(Stage::Beat);
    QVERIFY(m_window->showPanel(Stage::Beat, "feel"));
    m_window->showStage(Stage::Crate);
    auto* stems = tickNamed("Stems");
    QVERIFY(stems);
    const bool before = stems->isChecked();
    QVERIFY(take("stems", QStringLiteral("%1, on Print").arg(stems->text())));
    QCOMPARE(m_window->stage(), Stage::Print);
    QVERIFY(stems->isVisible());
    QCOMPARE(stems->isChecked(), !before);
  }

  /// What cannot be used now is not offered, and an empty line shows commands alone.
  void onlyWhatCanBeUsedIsOffered() {
    QVERIFY(take("notes drawer", "Fold the notes drawer   (Ctrl+D)"));
    m_window->showStage(Stage::Song);
    const auto before = controlsIn({{&m_window->view(Stage::Song), Stage::Song}});
    QVERIFY(before.size() > 5);
    before.front().control->setEnabled(false);
    const auto after = controlsIn({{&m_window->view(Stage::Song), Stage::Song}});
    QCOMPARE(after.size(), before.size() - 1);
    command(*m_window, "Find a command");
    auto* list = m_window->findChild<Finder*>()->findChild<QListWidget*>();
    for (int i = 0; i < list->count(); ++i)
      QVERIFY(list->item(i)->data(Qt::UserRole).value<void*>());
  }

private:
  Tick* tickNamed(const QString& text) {
    for (auto* tick : m_window->findChildren<Tick*>())
      if (tick->text().contains(text)) return tick;
    return nullptr;
  }
};

QTEST_MAIN(TestFinder)
#include "tst_finder.moc"

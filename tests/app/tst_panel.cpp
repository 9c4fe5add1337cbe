// Panels without anything behind them: values go in, wishes come out. Selections as values.
#include "formats/shipped.h"
#include "keys/duck_row.h"
#include "model/edits.h"
#include "panel/panel.h"
#include "session/document.h"
#include "widgets/combo.h"

#include <QSignalSpy>
#include <QtTest>

using namespace tuvvo;

class TestPanel : public QObject {
  Q_OBJECT

  Project m_demo;

private slots:
  void initTestCase() {
    JobContext job;
    auto demo = shippedDemo(TUVVO_DATA_DIR, job);
    QVERIFY(demo.ok());
    m_demo = std::move(demo).value();
  }

  void allWithinHaveTheValueBeforeOneIsTold() {
    Panel root;
    auto* middle = new Panel(root, &root);
    auto* inner = new Panel(*middle, middle);
    auto* other = new Panel(root, &root);
    int told = 0;
    for (Panel* each : {&root, middle, inner, other})
      connect(each, &Panel::changed, this, [&, each] {
        ++told;
        for (Panel* one : {&root, middle, inner, other})
          QCOMPARE(one->projectPtr(), each->projectPtr());
      });
    root.take({std::make_shared<Project>(m_demo), {}});
    QCOMPARE(told, 4);
    QCOMPARE(inner->project().name, m_demo.name);
    root.take({root.projectPtr(), root.selection()}); // nothing is new
    QCOMPARE(told, 4);
  }

  void aPanelMadeLaterShowsWhatIsShown() {
    Panel root;
    root.take({std::make_shared<Project>(m_demo), {}});
    Panel late(root, &root);
    QCOMPARE(late.project().keys.size(), m_demo.keys.size());
  }

  void wishesComeOutAtTheOutermostOne() {
    Panel root;
    auto* inner = new Panel(*new Panel(root, &root), &root);
    QSignalSpy edits(&root, &Panel::editWanted), said(&root, &Panel::message),
        selections(&root, &Panel::selectionWanted);
    inner->edit("a name", m_demo, "merge");
    QCOMPARE(edits.size(), 1);
    QCOMPARE(edits[0][0].toString(), QString("a name"));
    QCOMPARE(edits[0][2].toString(), QString("merge"));
    emit inner->message("hello", true);
    QCOMPARE(said.size(), 1);
    inner->selectPattern(7);
    QCOMPARE(selections.size(), 1);
    QVERIFY(inner->project().keys.empty()); // nobody made the wish come true
  }

  /// Only the stage that is seen works at every edit; the others catch up when they are shown.
  void whatRestsIsToldWhenItIsShown() {
    class Resting : public Panel {
    public:
      explicit Resting(Panel& host) : Panel(host, &host) { restWhileHidden(); }
    };
    Panel root;
    root.show();
    auto* stage = new Resting(root);
    auto* inner = new Panel(*stage, stage);
    QSignalSpy told(inner, &Panel::changed), chosen(inner, &Panel::selectionChanged);
    Selection selection;
    selection.key = m_demo.keys.front().id;
    root.take({std::make_shared<Project>(m_demo), selection});
    QCOMPARE(told.size() + chosen.size(), 0);
    QCOMPARE(inner->projectPtr(), root.projectPtr()); // it has the value all the same
    root.take({std::make_shared<Project>(m_demo), selection});
    stage->show();
    QCOMPARE(told.size(), 1); // once for all that it missed
    QCOMPARE(chosen.size(), 1);
    stage->hide();
    stage->show();
    QCOMPARE(told.size(), 1); // nothing was missed
    root.take({std::make_shared<Project>(m_demo), selection});
    QCOMPARE(told.size(), 2);
  }

  void aPanelThatEndsLeavesItsHost() {
    Panel root;
    delete new Panel(root, &root);
    root.take({std::make_shared<Project>(m_demo), {}});
    QCOMPARE(root.project().name, m_demo.name);
  }

  /// A whole row of the window works on a value alone.
  void aRowOfTheWindowWorksWithoutADocument() {
    Panel root;
    Selection selection;
    selection.key = m_demo.keys.front().id;
    root.take({std::make_shared<Project>(m_demo), selection});
    auto* row = new DuckRow(root, &root);
    connect(&root, &Panel::editWanted, &root,
            [&](const QString&, const Project& next, const QString&) {
              root.take({std::make_shared<Project>(next), root.selection()});
            });
    const Id part = m_demo.keys.front().part;
    row->show(findPart(root.project(), part));
    auto* by = row->findChild<Combo*>();
    QVERIFY(by->count() == int(m_demo.parts.size())); // nothing, and every other part
    by->setCurrentIndex(1);
    emit by->activated(1);
    const Id ducker = by->itemData(1).toUInt();
    QVERIFY(ducker != 0 && ducker != part);
    QCOMPARE(findPart(root.project(), part)->duck.by, ducker);
  }

  // ---- the document ----
  void aStepAfterUndoTellsWhatIsDropped() {
    Document document;
    document.replace(m_demo);
    Project one = m_demo, two = m_demo;
    one.tempo = Bpm(80);
    two.tempo = Bpm(81);
    document.edit("one", one);
    document.undo();
    QSignalSpy dropped(&document, &Document::aboutToStep);
    document.edit("two", two);
    QCOMPARE(dropped.size(), 1);
    QCOMPARE(dropped[0][0].value<std::size_t>(), std::size_t(0));
    QVERIFY(!document.history().canRedo());
    document.edit("nothing", two);
    QCOMPARE(dropped.size(), 1);
    document.step("outside", two); // a step even where the project stays
    QCOMPARE(dropped.size(), 2);
    QCOMPARE(document.history().place(), std::size_t(2));
  }

  void changedComesBeforeTheSelectionThatItMoves() {
    Document document;
    document.replace(m_demo);
    QStringList order;
    connect(&document, &Document::changed, this, [&] {
      order << "changed";
      QVERIFY(findKey(document.project(), document.selection().key)); // it is alive already
    });
    connect(&document, &Document::selectionChanged, this, [&] { order << "selection"; });
    Project less = m_demo;
    const Id gone = document.selection().key;
    std::erase_if(less.keys, [&](const Key& key) { return key.id == gone; });
    document.edit("less", less);
    QCOMPARE(order, (QStringList{"changed", "selection"}));
  }

  // ---- selections ----
  void slicesAreChosenTogetherInAnyDirection() {
    const Source* source = nullptr;
    for (const auto& each : m_demo.sources)
      if (each->cuts.size() > 6) source = each.get();
    QVERIFY(source);
    const auto& cuts = source->cuts;
    Selection s = withCutChosen({}, m_demo, source->id, cuts[4].id);
    s = withCutsUpTo(s, m_demo, cuts[1].id);
    QCOMPARE(s.cut, cuts[4].id);
    QCOMPARE(s.alsoCuts, (std::set<Id>{cuts[1].id, cuts[2].id, cuts[3].id}));
    s = withCutsUpTo(s, m_demo, cuts[6].id);
    QCOMPARE(s.alsoCuts, (std::set<Id>{cuts[5].id, cuts[6].id}));
    s = withCutToggled(s, m_demo, cuts[5].id);
    QCOMPARE(s.alsoCuts, (std::set<Id>{cuts[6].id}));
    s = withAllCuts(s, m_demo);
    QCOMPARE(s.alsoCuts.size(), cuts.size() - 1);
    Project without = withSourceChanged(m_demo, source->id, [&](Source& x) { x.cuts.clear(); });
    s = keptAlive(s, without);
    QCOMPARE(s.cut, Id(0));
    QVERIFY(s.alsoCuts.empty());
  }
};

QTEST_MAIN(TestPanel)
#include "tst_panel.moc"

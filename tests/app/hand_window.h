// The deck under hands: the demo's window, keys that are typed, and an empty pattern to play into.
#pragma once

#include "app/demo_window.h"
#include "choose.h"
#include "patience.h"

namespace tuvvo::test {

class HandWindow : protected DemoWindow {
protected:
  Deck& deck() { return m_window->deck(); }
  Id keyAtPlace(Row row, int column) { return keyAt(project(), row, column, 0)->id; }
  void type(int key, bool down, Qt::KeyboardModifiers with = {}) {
    QKeyEvent event(down ? QEvent::KeyPress : QEvent::KeyRelease, key, with);
    QCoreApplication::sendEvent(&m_window->view(Stage::Keys), &event);
    QCoreApplication::processEvents();
  }
  void tap(int key) {
    type(key, true);
    type(key, false);
  }
  /// An empty pattern at 120 BPM, to be played into without a count-in.
  void emptyPattern(int bars = 1) {
    m_window->showStage(Stage::Keys);
    Project next = project();
    next.tempo = Bpm(120);
    Pattern pattern;
    pattern.bars = bars;
    pattern.name = "empty";
    Id added = 0;
    next = withPattern(std::move(next), pattern, &added);
    m_services->document.edit("test", std::move(next));
    selectPattern(*m_services, added);
    auto click = m_services->transport.click();
    click.countIn = 0;
    m_services->transport.setClick(click);
  }
  PatternPtr pattern() { return findPattern(project(), m_services->document.selection().pattern); }
  std::size_t hits() {
    std::size_t count = 0;
    for (const auto& lane : pattern()->lanes) count += lane.hits.size();
    return count;
  }
  bool waitForBeat(double beats) {
    return QTest::qWaitFor([&] { return m_services->transport.positionBeats() >= beats; },
                           test::kPatienceMs);
  }
  void layHits(Id key, double every) {
    m_services->document.edit("test", withPatternChanged(project(), pattern()->id, [&](Pattern& p) {
                                for (double beat = 0; beat < 4; beat += every) {
                                  Hit hit;
                                  hit.at = Beats(std::llround(beat * double(kTicksPerBeat)));
                                  hit.key = key;
                                  p = withHit(p, findKey(project(), key)->part, hit);
                                }
                              }));
  }
};

} // namespace tuvvo::test

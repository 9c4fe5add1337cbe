#include "cut/loop_menu.h"
#include "session/music_text.h"

#include "cut/loop_finder.h"
#include "cut/slicing.h"
#include "model/edits.h"
#include "panel/panel.h"
#include "theme/theme.h"

#include <QCoreApplication>
#include <QMenu>
#include <cmath>

namespace tuvvo {

namespace {

struct LoopMenu {
  Q_DECLARE_TR_FUNCTIONS(LoopMenu)

public:
  static QString textOf(const LoopPlace& loop, const std::optional<KeyName>& key) {
    QString text = loop.bars == 1
                       ? tr("bar %1").arg(loop.firstBar + 1)
                       : tr("bars %1 to %2").arg(loop.firstBar + 1).arg(loop.firstBar + loop.bars);
    if (!loop.chord.empty()) text += QStringLiteral(" · ") + musicText(respelt(loop.chord, key));
    const QString join = loop.seam < 0.6   ? tr("joins cleanly")
                         : loop.seam < 1.2 ? tr("joins well")
                         : loop.seam < 2   ? tr("a seam that can be heard")
                                           : tr("a plain seam");
    text += QStringLiteral(" · ") + join;
    if (std::abs(loop.levelDb) > 1)
      text += tr(", level jumps %1 dB").arg(std::abs(loop.levelDb), 0, 'f', 1);
    return text;
  }

  static void cut(Panel& panel, const LoopPlace& loop) {
    const Source* s = findSource(panel.project(), panel.selection().source);
    if (!s) return;
    panel.edit(
        tr("Cut a loop of %1").arg(loop.bars == 1 ? tr("a bar") : tr("%1 bars").arg(loop.bars)),
        withCuts(panel.project(), s->id, s->cutting, withCutOver(*s, loop.start, loop.end)));
    s = findSource(panel.project(), panel.selection().source);
    for (const auto& made : s->cuts)
      if (made.start == loop.start) panel.selectCut(s->id, made.id);
    panel.playKey(panel.selection().key, 0.9);
  }
};

} // namespace

void offerLoops(Panel& panel, QWidget* under) {
  const Source* s = findSource(panel.project(), panel.selection().source);
  if (!s) return;
  QMenu menu(under);
  for (int bars : {1, 2, 4, 8}) {
    // Heard once; the menus under it pick from that.
    const auto places = findLoops(*s, {bars, {}, {}}, 400);
    const auto offer = [&](QMenu* into, const LoopQuestion& question) {
      int left = 6;
      for (const auto& loop : places)
        if (asksFor(question, loop.chord) && left-- > 0)
          into->addAction(LoopMenu::textOf(loop, keyOf(*s)), under,
                          [&panel, loop] { LoopMenu::cut(panel, loop); });
    };
    QMenu* any =
        menu.addMenu(bars == 1 ? LoopMenu::tr("One bar") : LoopMenu::tr("%1 bars").arg(bars));
    offer(any, {bars, {}, {}});
    const auto only = [&](const QString& name, const LoopQuestion& question) {
      QMenu* some = any->addMenu(name);
      offer(some, question);
      some->menuAction()->setVisible(!some->isEmpty());
    };
    only(LoopMenu::tr("On a minor chord"), {bars, true, {}});
    only(LoopMenu::tr("On a major chord"), {bars, false, {}});
    for (int root = 0; root < 12; ++root)
      only(LoopMenu::tr("On %1").arg(musicText(nameOf(KeyName{root, false}))), {bars, {}, root});
    any->menuAction()->setVisible(!any->isEmpty());
  }
  const auto offered = menu.actions();
  const bool none = std::none_of(offered.begin(), offered.end(),
                                 [](QAction* action) { return action->isVisible(); });
  if (none) {
    emit panel.message(
        LoopMenu::tr("%1 has no whole bars to loop. Tap its tempo in the crate first.")
            .arg(QString::fromStdString(s->name)),
        true);
    return;
  }
  menu.exec(under->mapToGlobal(QPoint(0, under->height() + theme::px(2))));
}

} // namespace tuvvo

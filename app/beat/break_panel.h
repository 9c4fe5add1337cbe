// Reading a break: what it plays, corrected where it was misheard, and what is made of it.
#pragma once

#include "beat/read_break.h"
#include "panel/panel.h"
#include "session/auditions.h"

#include <QWidget>

class QComboBox;

namespace tuvvo {

class BreakView;
class Button;
class Label;
class Tick;

class BreakPanel : public Panel {
  Q_OBJECT
public:
  BreakPanel(Panel& host, Auditions& auditions, QWidget* parent);
  void refresh();
  [[nodiscard]] BreakView& view() { return *m_view; }
  /// Reads another source of the beat.
  void read(Id source);
  void playWithKeys();
  void rebuild();
  void follow();

private:
  void makeRows();
  void fillSources();
  void fillKeys();
  void showFigures();
  [[nodiscard]] Id into() const;
  void take(Id pattern, const QString& name, const Project& next);

  Id m_source = 0;
  BreakKeys m_keys{};
  bool m_keysChosen = false;
  std::vector<Key> m_shownKeys; ///< as the lists have them
  SourcePtr m_read;             ///< the source as it was read last
  std::optional<BreakReading> m_reading;
  QString m_trouble;
  BreakView* m_view;
  QComboBox* m_sources;
  std::array<QComboBox*, 4> m_keyBoxes{};
  Label* m_figures;
  Button *m_unsure, *m_alike, *m_right;
  Tick* m_into;
  std::vector<QWidget*> m_needReading;
  struct Moved {
    Seconds at;
    HitClass from = HitClass::Kick, to = HitClass::Kick;
  } m_moved;
};

} // namespace tuvvo

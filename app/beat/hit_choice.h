// The hits that are chosen in the pattern shown, and what is done to them.
#pragma once

#include "panel/panel.h"
#include "tones/hits_elsewhere.h"

#include <QObject>
#include <map>

namespace tuvvo {

class HitChoice : public QObject {
  Q_OBJECT
public:
  explicit HitChoice(Panel& panel);

  [[nodiscard]] const HitClip& hits() const { return m_hits; }
  [[nodiscard]] bool empty() const { return m_hits.empty(); }
  [[nodiscard]] bool contains(Id part, const Hit& hit) const;
  /// The chosen hit, or the first of several; an empty one where none is.
  [[nodiscard]] Hit first() const { return empty() ? Hit{} : m_hits.front().hit; }

  void choose(HitClip hits);
  void chooseOne(Id part, const Hit& hit) { choose({{part, hit}}); }
  /// Chooses it with the others, or no longer.
  void toggle(Id part, const Hit& hit);
  void clear() { choose({}); }
  void chooseAll(Id part);
  void chooseClass(Id part, BeatClass which);

  /// Changes all of them; they stay chosen. Changes of the same name that follow each other are one
  /// step of undo until the document settles.
  void change(const QString& name, const std::function<void(Hit&)>& change);
  /// Lays others in their place and chooses those.
  void replace(const QString& name, const HitClip& by);
  void remove();

  void copy();
  void cut();
  [[nodiscard]] bool canPaste() const { return !m_copied.empty(); }
  /// Lays what was copied with its first hit at a place, and chooses it.
  void paste(Beats at);
  /// The same over and over, up to the pattern's end.
  void pasteRepeated(Beats at);
  void stretch(double factor);
  /// Lays what a shape makes of them in their place; the same name again begins from what they were
  /// before its first time, so that a figure can be turned.
  void shape(const QString& name, const std::function<HitClip(HitClip)>& shape);
  /// So many steps of the scale higher; lower where negative.
  void step(int steps);
  /// To the nearest tones of their chords.
  void snapTo(const std::vector<ChordSpan>& chords);
  /// The shape that was laid last and can be laid anew; empty: none.
  [[nodiscard]] const QString& shaping() const { return m_shaping; }
  /// Lays them on another key; they stay chosen there.
  void send(Id key, SendAs way);

signals:
  void changed();

private:
  void keepWhatIsThere();
  void lay(const QString& name, Beats at, int times);
  [[nodiscard]] PatternPtr pattern() const;

  Panel& m_panel; ///< its parent
  HitClip m_hits, m_copied;
  std::map<Id, HitSet> m_sets;
  bool m_editing = false;
  QString m_shaping, m_next; ///< the shape that was laid last, and the one that is being laid
  HitClip m_unshaped;        ///< what they were before it
};

} // namespace tuvvo

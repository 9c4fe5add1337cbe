// The pins that are chosen in the pattern shown, and what is done to them.
#pragma once

#include "beat/pattern_edits.h"
#include "session/session.h"

#include <QObject>
#include <map>

namespace tuvvo {

class PinChoice : public QObject {
  Q_OBJECT
public:
  PinChoice(Session& session, QObject* parent);

  [[nodiscard]] const PinClip& pins() const { return m_pins; }
  [[nodiscard]] bool empty() const { return m_pins.empty(); }
  [[nodiscard]] bool contains(Id part, const Pin& pin) const;
  /// The chosen pin, or the first of several; an empty one where none is.
  [[nodiscard]] Pin first() const { return empty() ? Pin{} : m_pins.front().pin; }

  void choose(PinClip pins);
  void chooseOne(Id part, const Pin& pin) { choose({{part, pin}}); }
  /// Chooses it with the others, or no longer.
  void toggle(Id part, const Pin& pin);
  void clear() { choose({}); }
  void chooseAll(Id part);
  void chooseClass(Id part, BeatClass which);

  /// Changes all of them; they stay chosen. Changes of the same name that follow each other are one
  /// step of undo until the session settles.
  void change(const QString& name, const std::function<void(Pin&)>& change);
  /// Lays others in their place and chooses those.
  void replace(const QString& name, const PinClip& by);
  void remove();

  void copy();
  void cut();
  [[nodiscard]] bool canPaste() const { return !m_copied.empty(); }
  /// Lays what was copied with its first pin at a place, and chooses it.
  void paste(Beats at);
  /// The same over and over, up to the pattern's end.
  void pasteRepeated(Beats at);
  void stretch(double factor);
  void ramp(double from, double to);

signals:
  void changed();

private:
  void keepWhatIsThere();
  void lay(const QString& name, Beats at, int times);
  [[nodiscard]] PatternPtr pattern() const;

  Session& m_session;
  PinClip m_pins, m_copied;
  std::map<Id, PinSet> m_sets;
  bool m_editing = false;
};

} // namespace tuvvo

// A part of the window that shows the document and asks for edits: values in, wishes out.
#pragma once

#include "panel/selection.h"

#include <QWidget>

namespace tuvvo {

/// What the window shows of the document.
struct Shown {
  ProjectPtr project; ///< never null
  Selection selection;
};

/// Panels lie in each other as widgets do. The outermost one is told what to show, and tells all
/// within it; what any of them wishes for comes out at the outermost one. A panel knows neither the
/// document nor who its host is. Interface thread.
class Panel : public QWidget {
  Q_OBJECT
public:
  /// An outermost panel; it shows an empty project until it is told another.
  explicit Panel(QWidget* parent = nullptr);
  Panel(Panel& host, QWidget* parent);

  [[nodiscard]] const Project& project() const { return *m_shown.project; }
  [[nodiscard]] const ProjectPtr& projectPtr() const { return m_shown.project; }
  [[nodiscard]] const Selection& selection() const { return m_shown.selection; }
  [[nodiscard]] std::vector<Id> chosenKeys() const {
    return tuvvo::chosenKeys(selection(), project());
  }

  /// For an outermost panel. All panels within have the new values before the first of them is told
  /// that something changed.
  void take(const Shown& shown);
  /// Tells a panel that rests what it has missed, for whoever asks what it would show.
  void catchUp();

  // Wishes. Where the outermost panel is connected, they have come true when the call returns, and
  // project() and selection() are the new ones.

  /// @param merge  edits under the same merge name, one after the other, are one step
  void edit(const QString& name, const Project& next, const QString& merge = {}) {
    emit editWanted(name, next, merge);
  }
  /// The next edit is a step of its own, whatever its merge name.
  void settle() { emit settleWanted(); }
  void select(const Selection& selection) { emit selectionWanted(selection); }
  /// Plays a key once, as heard in passing.
  void playKey(Id key, double velocity, Semitones tune = Semitones(0)) {
    emit playWanted(key, velocity, tune);
  }
  void selectSource(Id id) { select(withSourceChosen(selection(), id)); }
  void selectKey(Id id) { select(withKeyChosen(selection(), project(), id)); }
  void selectCut(Id source, Id cut) { select(withCutChosen(selection(), project(), source, cut)); }
  void selectPattern(Id id) { select(withPatternChosen(selection(), id)); }
  void selectSection(Id id) { select(withSectionChosen(selection(), project(), id)); }
  void setPage(int page) { select(withPage(selection(), project(), page)); }

signals:
  void changed();
  void selectionChanged();
  void editWanted(const QString& name, const Project& next, const QString& merge);
  void settleWanted();
  void selectionWanted(const Selection& selection);
  void playWanted(Id key, double velocity, Semitones tune);
  /// @param trouble  shown in coral until the next message
  void message(const QString& text, bool trouble);
  /// From a host to the panels within it, before anything is said to have changed.
  void held(const Shown& shown);

protected:
  /// A panel of which much is refreshed, a stage, rests while it cannot be seen: it has the values,
  /// and it and all within it are told that they changed when it is shown.
  void restWhileHidden() { m_rests = true; }
  bool event(QEvent* event) override;

private:
  void hold(const Shown& shown);
  [[nodiscard]] bool resting() const { return m_rests && !isVisible(); }

  Shown m_shown;
  bool m_rests = false, m_missedChange = false, m_missedSelection = false;
};

} // namespace tuvvo

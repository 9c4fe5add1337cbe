// A bass that follows the chords, chords by name, and the chords themselves.
#pragma once

#include "beat/hit_choice.h"
#include "panel/panel.h"
#include "tones/bass_line.h"
#include "widgets/combo.h"
#include "widgets/slide.h"

#include <QWidget>

namespace tuvvo {

class Combo;
class Button;
class ControlRow;
class Label;
class RibbonsView;

class TonesPanel : public Panel {
  Q_OBJECT
public:
  TonesPanel(Panel& host, RibbonsView& ribbons, HitChoice& choice, QWidget* parent);
  void refresh();
  /// Opens the ribbon of what plays here.
  void openRibbon();
  void layBass();
  void playChords();
  /// Calls the chord at the cursor by another name.
  void nameChord(const QString& name);

private:
  void makeRows();
  void makeBass(ControlRow& row);
  void makeChord(ControlRow& row);
  void makeVoicing(ControlRow& row);
  Combo* combo(const QString& name, const QString& tip, const QStringList& items, int width);
  /// @param set  what it is for; what was laid last is laid anew after that
  Slide* slide(const QString& id, const QString& label, const Slide::Range& range,
               const QString& unit, const QString& tip, const std::function<void(double)>& set);
  Button* button(const QString& text, const QString& tip, const std::function<void()>& run);
  [[nodiscard]] QString noteName(double note) const;
  void fillKeys();
  void fillChords();
  void lay(const QString& name, const Result<Pattern>& made);
  void relay();
  void stepChord(int steps);
  [[nodiscard]] PatternPtr pattern() const;
  [[nodiscard]] Id keyInUse() const;

  RibbonsView& m_ribbons;
  HitChoice& m_choice;
  Id m_key = 0; ///< chosen by hand; 0: the deck's bass
  BassPlan m_bass;
  ChordPlan m_chords;
  /// What was laid last and not touched since: other figures lay it anew.
  enum class Laid { Nothing, Bass, Chords } m_laid = Laid::Nothing;
  ProjectPtr m_laidStep;
  Combo *m_keys, *m_tones, *m_rhythm, *m_inversion, *m_voicing, *m_chord;
  Slide *m_lowest, *m_length, *m_chordLowest, *m_strum;
  Button *m_tune, *m_heard, *m_fit;
  Label* m_note;
};

} // namespace tuvvo

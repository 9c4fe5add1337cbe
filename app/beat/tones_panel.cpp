#include "beat/tones_panel.h"
#include "session/music_text.h"

#include "base/convert.h"
#include "beat/hand.h"
#include "beat/ribbons_view.h"
#include "model/edits.h"
#include "theme/theme.h"
#include "tones/theory.h"
#include "widgets/button.h"
#include "widgets/combo.h"
#include "widgets/control_row.h"
#include "widgets/label.h"
#include "widgets/slide.h"

#include <QLineEdit>
#include <QVBoxLayout>
#include <tuple>

namespace tuvvo {

using theme::px;

namespace {

constexpr double kInTune = 2; ///< cents
constexpr int kParallel = 4;  ///< place among the voicings

/// The key that plays bass: one that is held rather than not, on the Floor rather than elsewhere,
/// and the lowest of those.
Id usualBass(const Project& project) {
  Id best = 0;
  std::tuple<bool, bool, double> least{true, true, 1e9};
  for (const auto& key : project.keys) {
    const double root = rootOf(project, key).value;
    if (root <= 0 || key.sound.cut != 0) continue;
    const std::tuple now{!key.gate, key.row != Row::Floor, root};
    if (now >= least) continue;
    least = now;
    best = key.id;
  }
  return best;
}

} // namespace

TonesPanel::TonesPanel(Panel& host, RibbonsView& ribbons, HitChoice& choice, QWidget* parent)
    : Panel(host, parent), m_ribbons(ribbons), m_choice(choice) {
  makeRows();
  connect(&choice, &HitChoice::changed, this, &TonesPanel::refresh);
  refresh();
}

Combo* TonesPanel::combo(const QString& name, const QString& tip, const QStringList& items,
                         int width) {
  auto* made = new Combo(name, tip, this);
  made->addItems(items);
  made->setFixedWidth(px(width));
  return made;
}

Slide* TonesPanel::slide(const QString& id, const QString& label, const Slide::Range& range,
                         const QString& unit, const QString& tip,
                         const std::function<void(double)>& set) {
  auto* made = new Slide(label, range, unit, this);
  made->setId(id);
  made->setFixedWidth(px(92));
  made->setToolTip(tip);
  connect(made, &Slide::changed, this, [this, set](double v, bool settled) {
    set(v);
    relay();
    if (settled) settle();
  });
  return made;
}

Button* TonesPanel::button(const QString& text, const QString& tip,
                           const std::function<void()>& run) {
  auto* made = new Button(text, tip, this);
  connect(made, &QAbstractButton::clicked, this, run);
  return made;
}

QString TonesPanel::noteName(double note) const {
  return musicText(speltNote(int(note), project().key));
}

void TonesPanel::makeRows() {
  auto* bass = new ControlRow(this);
  makeBass(*bass);
  auto* chords = new ControlRow(this);
  makeChord(*chords);
  makeVoicing(*chords);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(px(4));
  column->addWidget(bass);
  column->addWidget(chords);
  column->addStretch(1);
}

void TonesPanel::makeBass(ControlRow& row) {
  m_keys = combo(tr("Played by"), tr("The key that plays the bass or the chords"), {}, 118);
  connect(m_keys, &QComboBox::activated, this, [this](int at) {
    m_key = Id(m_keys->itemData(at).toUInt());
    openRibbon();
    refresh();
  });
  m_note = new Label(theme::Type::Small, theme::Ink::Quiet, this);
  m_note->setLeast(60);
  m_tune =
      button(tr("Tune it"), tr("Tunes the key by cents, so that what is written is what sounds"),
             [this] { edit(tr("Tune a key"), withNoteTuned(project(), keyInUse())); });
  m_tones = combo(
      tr("Bass notes"), tr("Which notes of the chords the bass plays"),
      {tr("roots"), tr("roots and fifths"), tr("roots and octaves"), tr("approach notes")}, 132);
  connect(m_tones, &QComboBox::activated, this, [this](int at) {
    m_bass.tones = BassPlan::Tones(at);
    relay();
  });
  m_rhythm =
      combo(tr("Bass rhythm"), tr("When the bass plays"),
            {tr("with the kick"), tr("before the kick"), tr("on the ones"), tr("answering")}, 126);
  connect(m_rhythm, &QComboBox::activated, this, [this](int at) {
    m_bass.rhythm = BassPlan::Rhythm(at);
    relay();
  });
  m_lowest = slide(QStringLiteral("tones.register-from"), tr("Register from"), {12, 60, 28, 1, 0},
                   QString(), tr("Roots lie in the octave from this note on"),
                   [this](double v) { m_bass.lowest = int(v); });
  m_lowest->setNote();
  m_lowest->setFormat([this](double v) { return noteName(v); });
  m_length =
      slide(QStringLiteral("tones.held-for"), tr("Held for"), {10, 120, 90, 1, 0}, tr("%"),
            tr("How much of the way to the next note one sounds; over 100 it glides into it"),
            [this](double v) { m_bass.length = v / 100; });
  for (QWidget* w : std::initializer_list<QWidget*>{m_keys, m_tones, m_rhythm, m_lowest, m_length})
    row.add(w);
  row.add(button(tr("Follow the chords"),
                 tr("Lays a bass that follows the chords; until it is touched, other figures "
                    "lay it anew"),
                 [this] { layBass(); }));
  row.add(m_tune);
  row.add(m_note);
}

/// The chord at the cursor, and what is done to it.
void TonesPanel::makeChord(ControlRow& row) {
  m_chord = combo(
      tr("Chord at the cursor"),
      tr("Another chord at the cursor: choose one of the key, or type any (F#m7, Gsus4)"), {}, 100);
  m_chord->setTyped();
  connect(m_chord, &QComboBox::activated, this,
          [this](int at) { nameChord(m_chord->itemData(at).toString()); });
  connect(m_chord->lineEdit(), &QLineEdit::returnPressed, this,
          [this] { nameChord(m_chord->lineEdit()->text().trimmed()); });
  row.add(m_chord);
  row.add(button(tr("Lower"), tr("The chord at the cursor a step of the key lower"),
                 [this] { stepChord(-1); }));
  row.add(button(tr("Higher"), tr("The chord at the cursor a step of the key higher"),
                 [this] { stepChord(1); }));
  m_heard = button(tr("Chords as heard"), tr("Takes the written chords away"), [this] {
    edit(tr("Chords as heard"),
         withPatternChanged(project(), selection().pattern, [](Pattern& p) { p.chords.clear(); }));
  });
  row.add(m_heard);
  m_fit =
      button(tr("Move to the chord"), tr("The chosen hits go to the nearest tones of their chords"),
             [this] { m_choice.snapTo(m_ribbons.chords()); });
  row.add(m_fit);
}

/// How the chords of the pattern are played.
void TonesPanel::makeVoicing(ControlRow& row) {
  m_inversion = combo(
      tr("Inversion"), tr("Which of the chord's tones is the lowest"),
      {tr("on the root"), tr("1st inversion"), tr("2nd inversion"), tr("3rd inversion")}, 112);
  connect(m_inversion, &QComboBox::activated, this, [this](int at) {
    m_chords.inversion = at;
    relay();
  });
  m_chordLowest =
      slide(QStringLiteral("tones.chords-from"), tr("Chords from"), {24, 84, 52, 1, 0}, QString(),
            tr("No note of a chord is below this"), [this](double v) { m_chords.lowest = int(v); });
  m_chordLowest->setNote();
  m_chordLowest->setFormat([this](double v) { return noteName(v); });
  m_strum = slide(QStringLiteral("tones.strum"), tr("Strum"), {-60, 60, 0, 1, 0}, tr("ms"),
                  tr("From one note of a chord to the next; negative from the top"),
                  [this](double v) { m_chords.strum = Milliseconds(v); });
  m_voicing = combo(
      tr("Voicing"), tr("How the tones of a chord lie over each other"),
      {tr("close"), tr("open"), tr("spread"), tr("without the root"), tr("one shape for all")},
      118);
  m_voicing->setItemData(1, tr("The second tone an octave higher"), Qt::ToolTipRole);
  m_voicing->setItemData(2, tr("Open, over a lowest tone an octave below"), Qt::ToolTipRole);
  m_voicing->setItemData(3, tr("The bass plays the root"), Qt::ToolTipRole);
  m_voicing->setItemData(4, tr("The first chord's shape, moved to every root"), Qt::ToolTipRole);
  connect(m_voicing, &QComboBox::activated, this, [this](int at) {
    m_chords.parallel = at == kParallel;
    if (at != kParallel) m_chords.voicing = Voicing(at);
    relay();
  });
  for (QWidget* w : std::initializer_list<QWidget*>{m_inversion, m_voicing, m_chordLowest, m_strum})
    row.add(w);
  row.add(button(tr("Play the chords"),
                 tr("Every chord of the pattern on this key, which then plays many notes at "
                    "once"),
                 [this] { playChords(); }));
}

PatternPtr TonesPanel::pattern() const { return findPattern(project(), selection().pattern); }

Id TonesPanel::keyInUse() const { return findKey(project(), m_key) ? m_key : usualBass(project()); }

void TonesPanel::openRibbon() {
  if (const Key* key = findKey(project(), keyInUse())) {
    m_ribbons.showPart(key->part);
    m_ribbons.setOpen(key->part, true);
    refresh();
  }
}

void TonesPanel::lay(const QString& name, const Result<Pattern>& made) {
  if (!made) {
    emit message(QString::fromStdString(made.error().text()), true);
    return;
  }
  Project next = project();
  if (m_laid == Laid::Chords) // one at a time would leave a chord's last note
    next = withKeyChanged(std::move(next), keyInUse(), [](Key& key) {
      key.mono = false;
      key.choke = 0;
    });
  const Id shown = selection().pattern;
  edit(name, withPatternChanged(std::move(next), shown, [&](Pattern& p) { p = *made; }),
       name + QString::number(shown));
  m_laidStep = projectPtr();
  openRibbon();
}

void TonesPanel::layBass() {
  const PatternPtr now = pattern();
  if (!now) return;
  m_bass.key = keyInUse();
  m_laid = Laid::Bass;
  lay(tr("A bass that follows"), withBass(project(), *now, m_bass));
}

void TonesPanel::playChords() {
  const PatternPtr now = pattern();
  if (!now) return;
  m_chords.key = keyInUse();
  m_laid = Laid::Chords;
  lay(tr("Play the chords"), withChordsPlayed(project(), *now, m_chords));
}

/// Lays what was laid last by the new figures, while nothing else was done since.
void TonesPanel::relay() {
  if (m_laidStep != projectPtr()) return;
  if (m_laid == Laid::Bass) layBass();
  if (m_laid == Laid::Chords) playChords();
}

void TonesPanel::nameChord(const QString& name) {
  const auto chord = chordFromName(name.toStdString());
  if (!chord) {
    emit message(
        tr("“%1” is no chord. Write a root and its kind, as in Am7, F#6, Bbmaj9, C/E.").arg(name),
        true);
    fillChords();
    return;
  }
  const std::string plain = withoutSigns(name.toStdString());
  edit(tr("Write a chord"), withPatternChanged(project(), selection().pattern, [&](Pattern& p) {
         p = withChord(project(), std::move(p), m_ribbons.cursor(), plain);
       }));
}

/// To the chord on the next degree of the key.
void TonesPanel::stepChord(int steps) {
  const auto& key = project().key;
  const ChordSpan* span = chordAt(m_ribbons.chords(), m_ribbons.cursor());
  if (!key || !span) {
    emit message(tr("A step needs a chord at the cursor and a key of the beat."), true);
    return;
  }
  const auto degrees = chordsIn(*key, span->chord.kind->tones().size() > 3);
  std::size_t nearest = 0; // the degree at or next below it
  int least = 12;
  for (std::size_t i = 0; i < degrees.size(); ++i)
    if (const int above = (span->chord.root - degrees[i].root + 12) % 12; above < least) {
      least = above;
      nearest = i;
    }
  // From between two degrees a step down goes to the one below.
  const auto count = int(degrees.size());
  const int to = int(nearest) + (least > 0 && steps < 0 ? steps + 1 : steps);
  nameChord(musicText(spelt(degrees[std::size_t((to % count + count) % count)], key)));
}

void TonesPanel::fillKeys() {
  const Project& p = project();
  const Id now = keyInUse();
  m_keys->clear();
  for (const auto& key : p.keys) {
    if (rootOf(p, key).value <= 0 || key.sound.cut != 0) continue;
    m_keys->addItem(nameText(p, key), uint(key.id));
    if (key.id == now) m_keys->setCurrentIndex(m_keys->count() - 1);
  }
  const Key* key = findKey(p, now);
  QString words = tr("No key here has a single note: put a bass on the deck first.");
  bool off = false;
  if (key) {
    const Hertz root = rootOf(p, *key);
    const double note = midiNoteOf(root), cents = (note - std::round(note)) * 100;
    off = std::abs(cents) >= kInTune;
    words = off ? tr("sounds %1 %2%3 ct")
                      .arg(musicText(speltNote(toNearest<int>(note), p.key)))
                      .arg(cents < 0 ? QStringLiteral("−") : QStringLiteral("+"))
                      .arg(std::abs(cents), 0, 'f', 0)
                : tr("sounds %1, in tune").arg(musicText(speltNote(toNearest<int>(note), p.key)));
  }
  m_note->setText(words);
  m_tune->setEnabled(off);
}

void TonesPanel::fillChords() {
  const auto& key = project().key;
  const ChordSpan* span = chordAt(m_ribbons.chords(), m_ribbons.cursor());
  m_chord->clear();
  if (key)
    for (const auto& chord : chordsIn(*key)) {
      const QString name = musicText(spelt(chord, key));
      m_chord->addItem(tr("%1   %2").arg(name, QString::fromStdString(romanOf(chord, *key))), name);
    }
  m_chord->setEditText(span ? musicText(spelt(span->chord, key)) : QString());
  m_chord->lineEdit()->setPlaceholderText(tr("no chord"));
}

void TonesPanel::refresh() {
  fillKeys();
  if (!m_chord->lineEdit()->hasFocus()) fillChords();
  const PatternPtr now = pattern();
  m_heard->setEnabled(now && !now->chords.empty());
  m_fit->setEnabled(!m_choice.empty() && !m_ribbons.chords().empty());
  m_tones->setCurrentIndex(int(m_bass.tones));
  m_rhythm->setCurrentIndex(int(m_bass.rhythm));
  m_lowest->setValue(m_bass.lowest);
  m_length->setValue(m_bass.length * 100);
  m_inversion->setCurrentIndex(m_chords.inversion);
  m_voicing->setCurrentIndex(m_chords.parallel ? kParallel : int(m_chords.voicing));
  m_chordLowest->setValue(m_chords.lowest);
  m_strum->setValue(m_chords.strum.value);
}

} // namespace tuvvo

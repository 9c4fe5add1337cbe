// What is done with whole patterns: new ones, halves, joins, files, text.
#include "beat/beat_stage.h"
#include "beat/flip.h"
#include "beat/pattern_edits.h"
#include "beat/ribbons_view.h"
#include "beat/start_levels.h"
#include "formats/pattern_text.h"
#include "formats/smf_beat.h"
#include "model/edits.h"
#include "parts/slices_laid_out.h"
#include "play/print.h"
#include "session/print_service.h"
#include "session/recorder.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/empty_place.h"

#include <QClipboard>
#include <QFileDialog>
#include <QFileInfo>
#include <QGuiApplication>

namespace tuvvo {

using theme::px;

void BeatStage::changePattern(const QString& name, const std::function<void(Pattern&)>& change) {
  edit(name, withPatternChanged(project(), selection().pattern, change));
}

void BeatStage::addPattern(bool copy) {
  Pattern pattern;
  if (const PatternPtr now = findPattern(project(), selection().pattern)) {
    if (copy) pattern = *now;
    pattern.meter = now->meter;
  }
  pattern.family = 0;
  pattern.name =
      copy ? pattern.name + " 2" : std::string(1, char('A' + int(project().patterns.size()) % 26));
  Id added = 0;
  edit(copy ? tr("Copy a pattern") : tr("New pattern"), withPattern(project(), pattern, &added));
  selectPattern(added);
}

void BeatStage::addAlternative() {
  Id added = 0;
  edit(tr("Alternative of a pattern"), withAlternative(project(), selection().pattern, &added));
  selectPattern(added);
}

void BeatStage::doubleLength() {
  const PatternPtr pattern = findPattern(project(), selection().pattern);
  if (!pattern) return;
  if (pattern->bars * 2 > kMostBars)
    return emit message(tr("A pattern has at most %1 bars.").arg(kMostBars), false);
  changePattern(tr("Double the pattern"),
                [bars = pattern->bars * 2](Pattern& p) { p = withBars(std::move(p), bars); });
}

void BeatStage::splitAtCursor() {
  const PatternPtr pattern = findPattern(project(), selection().pattern);
  if (!pattern) return;
  const int bar = int(m_ribbons->cursor().value / barOf(pattern->meter).value);
  if (bar < 1 || bar >= pattern->bars)
    return emit message(tr("Put the cursor into the bar that the second half begins with."), false);
  Pattern first = barsOf(*pattern, 0, bar), second = barsOf(*pattern, bar, pattern->bars - bar);
  first.name += " a";
  second.name += " b";
  first.family = second.family = 0;
  Id added = 0;
  Project next = withPattern(project(), std::move(first), &added);
  edit(tr("Split a pattern"), withPattern(std::move(next), std::move(second)));
  selectPattern(added);
  emit message(tr("Both halves are patterns of their own; this one stays as it was."), false);
}

void BeatStage::joinWithNext() {
  const auto& all = project().patterns;
  const auto found = std::find_if(
      all.begin(), all.end(), [&](const PatternPtr& p) { return p->id == selection().pattern; });
  if (found == all.end() || std::next(found) == all.end())
    return emit message(tr("No pattern comes after this one."), false);
  const Pattern &first = **found, &second = **std::next(found);
  Pattern both = joined(project(), first, second);
  both.name = first.name + " + " + second.name;
  both.family = 0;
  Id added = 0;
  edit(tr("Join two patterns"), withPattern(project(), std::move(both), &added));
  selectPattern(added);
}

void BeatStage::askForMidi(bool write) {
  const QString kinds = tr("MIDI files (*.mid *.midi)");
  const PatternPtr pattern = findPattern(project(), selection().pattern);
  const QString path =
      write ? QFileDialog::getSaveFileName(
                  this, tr("Write the pattern as a MIDI file"),
                  QString::fromStdString(fileNameOf(pattern ? pattern->name : "pattern")) +
                      QStringLiteral(".mid"),
                  kinds)
            : QFileDialog::getOpenFileName(this, tr("Read a MIDI file"), QString(), kinds);
  if (!path.isEmpty()) write ? writeMidi(path) : readMidi(path);
}

void BeatStage::readMidi(const QString& path) {
  SmfReading reading;
  reading.tones = selection().key;
  if (m_ribbons->grid() > 0) reading.perBeat = m_ribbons->grid();
  const auto read = readSmfBeat(path.toStdString(), project(),
                                QFileInfo(path).completeBaseName().toStdString(), reading);
  if (!read) {
    emit message(QString::fromStdString(read.error().text()), true);
    return;
  }
  Id added = 0;
  edit(tr("Read a MIDI file"), withPattern(project(), read->pattern, &added));
  selectPattern(added);
  QString said = tr("Read as a pattern. The file is at %1 BPM.").arg(read->tempo.value, 0, 'g', 5);
  for (const auto& warning : read->warnings)
    said += QLatin1Char(' ') + QString::fromStdString(warning);
  emit message(said, !read->warnings.empty());
}

void BeatStage::writeMidi(const QString& path) {
  // The file dialog has asked.
  m_printing.writePattern(selection().pattern, path.toStdString(), Replace::Yes);
}

void BeatStage::setMeter(const QString& name) {
  const PatternPtr pattern = findPattern(project(), selection().pattern);
  const auto meter = meterFromName(name.toStdString());
  if (!meter) {
    emit message(tr("“%1” is no meter. Write beats and note, such as 7/8.").arg(name), true);
    refresh();
  } else if (pattern && *meter != pattern->meter) {
    changePattern(tr("Meter of the pattern"),
                  [&](Pattern& p) { p = withMeter(std::move(p), *meter); });
  }
}

void BeatStage::copyAsText() {
  const PatternPtr pattern = findPattern(project(), selection().pattern);
  if (!pattern) return;
  QGuiApplication::clipboard()->setText(QString::fromStdString(patternText(project(), *pattern)));
  emit message(tr("The pattern is on the clipboard as text."), false);
}

void BeatStage::pasteAsText() {
  const auto read = patternFromText(project(), QGuiApplication::clipboard()->text().toStdString());
  if (!read) {
    emit message(QString::fromStdString(read.error().text()), true);
    return;
  }
  Id added = 0;
  edit(tr("Paste a pattern"), withPattern(read->project, read->pattern, &added));
  selectPattern(added);
  QString said;
  for (const auto& warning : read->warnings)
    said += QString::fromStdString(warning) + QLatin1Char(' ');
  if (!said.isEmpty()) emit message(said.trimmed(), true);
}

void BeatStage::makeEmpty() {
  m_empty = new EmptyPlace(this);
  m_empty->setFixedHeight(px(136));
  m_empty->say(tr("This pattern is empty"),
               tr("Click into a ribbon to set hits, or begin with one of these."));
  connect(m_empty->addWay(Sign::Pin, tr("Start from a groove"),
                          tr("A plain beat with the kit, to be changed")),
          &QAbstractButton::clicked, this, &BeatStage::layStarterDrums);
  m_laySource = m_empty->addWay(Sign::Cut, tr("Lay a source out"),
                                tr("The slices of the chosen source, in order, as a pattern"));
  connect(m_laySource, &QAbstractButton::clicked, this, &BeatStage::laySourceOut);
  connect(
      m_empty->addWay(Sign::Break, tr("Read a break"), tr("What a break plays, as hits (Ctrl+3)")),
      &QAbstractButton::clicked, this, [this] { openPanel(Break); });
  connect(m_empty->addWay(Sign::Record, tr("Play it in"),
                          tr("Count in, and write what you play on the deck (Ctrl+R)")),
          &QAbstractButton::clicked, this, [this] { m_recorder.toggleRecord(); });
}

void BeatStage::layStarterDrums() {
  const Id pattern = selection().pattern;
  LoudnessCache loudness;
  Project next = withPatternChanged(
      project(), pattern, [this](Pattern& p) { p = withStarterDrums(std::move(p), project()); });
  next = withStartLevels(std::move(next), freshParts(project()), pattern, Among::ByRole, loudness);
  edit(tr("Start from a groove"), next);
}

void BeatStage::laySourceOut() { laySlicesOut(*this, selection().source); }

} // namespace tuvvo

// A table of cases in which a note must speak or must not.
#pragma once

#include "notes/notes.h"
#include "support.h"

#include <QtTest>

using MadeProject = std::function<tuvvo::Project()>;
Q_DECLARE_METATYPE(MadeProject)

namespace tuvvo::test {

/// Whether a note of a kind speaks, and is silent once its fix is taken.
template <class Kind> inline QString judged(const Project& project, bool speaks) {
  LoudnessCache loudness;
  const auto said = [&](const Project& p) -> std::optional<Note> {
    for (const auto& note : notesOf(p, loudness))
      if (std::holds_alternative<Kind>(note.finding)) return note;
    return std::nullopt;
  };
  const auto note = said(project);
  if (note.has_value() != speaks) return note ? "it speaks" : "it is silent";
  if (note && note->fix && said(note->fix(project))) return "it speaks again after its fix";
  return {};
}

/// @param rows  is handed a function for a row: its name, whether a note speaks, what it is made of
template <class Rows> void table(Rows rows) {
  QTest::addColumn<MadeProject>("made");
  QTest::addColumn<bool>("speaks");
  rows([](const char* name, bool speaks, const MadeProject& made) {
    QTest::newRow(name) << made << speaks;
  });
}

template <class Kind> void judge() {
  QFETCH(MadeProject, made);
  QFETCH(bool, speaks);
  const QString wrong = judged<Kind>(made(), speaks);
  QVERIFY2(wrong.isEmpty(), qPrintable(wrong));
}

/// A tone that dies away to 20 dB under in a time.
inline SoundPtr ringing(double hz, double ringMs) {
  Samples out = sine(hz, 1.5, 48000, 0.8);
  const double perS = std::log(10.0) / (ringMs / 1000);
  for (std::size_t i = 0; i < out.size(); ++i) out[i] *= float(std::exp(-perS * double(i) / 48000));
  return makeSound(std::move(out));
}

} // namespace tuvvo::test

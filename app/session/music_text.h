// Keys, chords and notes as they are shown: with the signs for flat and sharp. Files have letters.
#pragma once

#include "listen/spelling.h"
#include "model/project.h"

#include <QCoreApplication>
#include <QRegularExpression>
#include <QStringList>
#include <array>

namespace tuvvo {

/// "E♭m", "F♯maj7" of what the core calls Ebm and F#maj7.
[[nodiscard]] inline QString musicText(std::string_view ascii) {
  return QString::fromStdString(withSigns(ascii));
}

/// A chord that was heard, in as many words as there is room for: "Am or C" and "Am?" where it is
/// unsure, and the name alone.
/// @param fits  whether there is room for a text
template <class Fits>
[[nodiscard]] QString chordText(const ChordHeard& chord, const std::optional<KeyName>& key,
                                Fits fits) {
  QString name = musicText(respelt(chord.name, key));
  if (chord.confidence >= 0.5) return name;
  if (!chord.other.empty()) {
    QString both = QCoreApplication::translate("chords", "%1 or %2")
                       .arg(name, musicText(respelt(chord.other, key)));
    if (fits(both)) return both;
  }
  QString asked = name + QLatin1Char('?');
  return fits(asked) ? asked : name;
}

/// Places between beats as fractions, "2.2½" for what the core calls 2.2&; other words stay.
[[nodiscard]] inline QString withFractions(QString text) {
  static const std::array<std::pair<QLatin1String, QChar>, 3> parts{
      {{QLatin1String("e"), QChar(0xbc)},
       {QLatin1String("&"), QChar(0xbd)},
       {QLatin1String("a"), QChar(0xbe)}}};
  for (const auto& [syllable, fraction] : parts)
    text.replace(
        QRegularExpression(QStringLiteral("\\b(-?\\d+\\.\\d+)%1(?=[ ,.]|$)").arg(syllable)),
        QStringLiteral("\\1") + fraction);
  return text;
}

/// What a key of the deck is called; what a person typed stays as it was typed.
[[nodiscard]] inline QString nameText(const Project& project, const Key& key) {
  const std::string name = nameOf(project, key);
  return key.name.empty() ? withFractions(musicText(name)) : QString::fromStdString(name);
}

/// What a row of the deck is called.
[[nodiscard]] inline QString rowText(Row row) {
  switch (row) {
  case Row::Cuts:
    return QCoreApplication::translate("rows", "Cuts");
  case Row::Air:
    return QCoreApplication::translate("rows", "Air");
  case Row::Body:
    return QCoreApplication::translate("rows", "Body");
  case Row::Floor:
    break;
  }
  return QCoreApplication::translate("rows", "Floor");
}
[[nodiscard]] inline QStringList rowTexts() {
  return {rowText(Row::Cuts), rowText(Row::Air), rowText(Row::Body), rowText(Row::Floor)};
}

} // namespace tuvvo

#include "parts/source_text.h"
#include "session/music_text.h"

#include <QObject>

namespace tuvvo {

QString tempoText(const Source& source) {
  if (!source.heard && !source.corrections.tempo)
    return source.kit ? QString() : QObject::tr("listening…");
  const auto grid = gridOf(source);
  return grid ? QStringLiteral("%1 BPM").arg(grid->tempo.value, 0, 'f', 2)
              : QObject::tr("no tempo");
}

QString keyText(const Source& source) {
  if (const auto key = keyOf(source)) return musicText(nameOf(*key));
  if (source.heard && source.heard->root.value > 0) {
    const QString note = musicText(noteNameOf(source.heard->root));
    return note.section(QLatin1Char(' '), 0, 0);
  }
  return QObject::tr("no key");
}

QString lengthText(Seconds duration) {
  const double s = duration.value;
  if (s < 60) return QStringLiteral("%1 s").arg(s, 0, 'f', 2);
  return QStringLiteral("%1:%2").arg(int(s) / 60).arg(int(s) % 60, 2, 10, QLatin1Char('0'));
}

QString kindText(SoundKind kind) {
  switch (kind) {
  case SoundKind::OneShot:
    return QObject::tr("one-shot");
  case SoundKind::Break:
    return QObject::tr("break");
  case SoundKind::Loop:
    return QObject::tr("loop");
  case SoundKind::Passage:
    return QObject::tr("passage");
  case SoundKind::Field:
    return QObject::tr("field recording");
  case SoundKind::Voice:
    return QObject::tr("voice");
  }
  return {};
}

} // namespace tuvvo

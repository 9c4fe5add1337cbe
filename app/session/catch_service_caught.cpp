// What was caught: kept as a file, in the crate and in the beat.
#include "session/catch_service.h"

#include "audio/encode.h"
#include "listen/analyse.h"
#include "model/edits.h"
#include "play/print.h"

#include <cmath>

namespace tuvvo {

namespace {

/// Of a single sound: "kick caught".
std::string hitName(const Analysis& heard) {
  for (const Onset& onset : heard.onsets)
    if (const auto name = nameOf(onset); !name.empty()) return std::string(name) + " caught";
  return "sound caught";
}

} // namespace

void CatchService::told(CatchEvent told) {
  if (auto* bars = std::get_if<BarsCaught>(&told)) return caughtBars(std::move(*bars));
  if (auto* hit = std::get_if<HitCaught>(&told)) return caughtHit(std::move(hit->hit));
  if (const auto* take = std::get_if<LongCaught>(&told)) return caughtLong(*take);
  if (const auto* latency = std::get_if<LatencyFound>(&told)) return foundLatency(*latency);
  if (const auto* lost = std::get_if<SoundLost>(&told))
    emit message(tr("This computer was too busy: %1 ms of what came in are missing.")
                     .arg(double(lost->frames) / kEngineRate.value * 1000, 0, 'f', 0),
                 true);
}

void CatchService::caughtBars(BarsCaught caught) {
  m_catching = false;
  const QString settings = settingsText();
  Caught out;
  out.sound = std::make_shared<Sound>(std::move(caught.channels), kEngineRate);
  out.name = tr("%1 bars %2 BPM")
                 .arg(m_settings.bars)
                 .arg(m_tempo, 0, 'f', m_tempo == std::round(m_tempo) ? 0 : 2)
                 .toStdString();
  if (!caught.whole) {
    out.name = tr("part of %1").arg(QString::fromStdString(out.name)).toStdString();
    emit message(tr("Ended after %1 bars, before all were there; what came in so far is kept.")
                     .arg(double(out.sound->frames().value) * m_settings.bars / double(m_barFrames),
                          0, 'f', 1),
                 true);
  }
  out.provenance = provenanceFor(settings);
  out.corrections.tempo = Bpm(m_tempo);
  out.corrections.downbeat = Seconds(0);
  add(out);
  emit changed();
}

void CatchService::caughtHit(CaughtHit hit) {
  Caught out;
  out.sound = std::make_shared<Sound>(std::move(hit.channels), kEngineRate);
  out.provenance = provenanceFor(settingsText());
  out.onKey = true;
  add(out);
  emit changed();
}

void CatchService::caughtLong(const LongCaught& caught) {
  m_catching = false;
  if (caught.trouble) emit message(QString::fromStdString(caught.trouble->text()), true);
  if (caught.frames > 0) emit tookLong(QString::fromStdString(caught.path.string()));
  emit changed();
}

void CatchService::add(const Caught& caught) {
  Crate* library = m_crate.crate(); // opened here, on the interface thread
  m_pool.run([this, caught, library](JobContext& job) {
    Source source;
    source.sound = caught.sound;
    source.hash = caught.sound->hash();
    source.heard = analyse(*caught.sound, job);
    source.provenance = caught.provenance;
    source.corrections = caught.corrections;
    source.name = caught.name.empty() ? hitName(*source.heard) : caught.name;
    const std::string stem = source.name;
    Result<void> written = makeFolder(caughtFolder());
    EncodeOptions options;
    options.samples = SampleFormat::Float32;
    options.replace = Replace::No;
    for (int n = 1; written; ++n) {
      source.name = n > 1 ? stem + " " + std::to_string(n) : stem;
      source.origin = (caughtFolder() / (fileNameOf(source.name) + ".wav")).string();
      std::error_code code;
      if (std::filesystem::exists(source.origin, code)) continue;
      written = encodeFile(*caught.sound, source.origin, options);
      if (written) break;
      // Another catch may have taken the name meanwhile.
      if (written.error().replaces) written = {};
    }
    source.provenance.title = source.name;
    QMetaObject::invokeMethod(
        this,
        [this, source, onKey = caught.onKey, library,
         said = written ? std::string() : written.error().text()] {
          if (!said.empty()) emit message(QString::fromStdString(said), true);
          if (said.empty() && library)
            m_crate.keepSound(caughtFolder(), source.hash,
                              {0, {"caught"}, source.provenance, source.corrections, {}});
          addToBeat(source, onKey); // even where the disc is full: the beat holds it
        },
        Qt::QueuedConnection);
  });
}

void CatchService::addToBeat(const Source& source, bool onKey) {
  const QString name = QString::fromStdString(source.name);
  Id id = 0, key = 0;
  Project next = withSource(m_document.project(), source, &id);
  if (onKey)
    next = withSoundOnDeck(std::move(next), suggestedRow(source), {id, 0}, source.name, &key);
  m_document.edit(tr("Catch %1").arg(name), std::move(next));
  m_document.settle();
  if (key != 0)
    m_document.select(withKeyChosen(m_document.selection(), m_document.project(), key));
  else
    m_document.select(withSourceChosen(m_document.selection(), id));
  emit message(onKey ? tr("%1 lies on a key.").arg(name)
                     : tr("%1 is in the beat and in the crate.").arg(name),
               false);
  emit changed();
}

} // namespace tuvvo

#include "audio/decode.h"
#include "audio/resample.h"
#include "listen/levels.h"
#include "session/session.h"

#include <cmath>

namespace tuvvo {

namespace {

constexpr double kUnderBeatDb = 3;  // beside the music, not over it (common practice, no source)
constexpr double kAloneLufs = -20;  // where there is no beat to match
constexpr double kMostPeak = 0.89;  // −1 dBFS
constexpr double kMostBoostDb = 24; // a nearly silent recording is not blown up without end
constexpr Seconds kReadS{40};       // of a long file

/// The beginning of a sound's file.
SoundPtr soundOf(const Source& source, JobContext& job) {
  if (source.sound) return source.sound;
  auto decoded = decodeFile(source.origin, job, {}, kReadS);
  return decoded ? decoded->sound : nullptr;
}

std::string howText(const FitRow& row, bool timed) {
  char text[80];
  std::string out;
  const double shift = row.semitones.value + row.cents.value / 100;
  const bool moved = std::abs(shift) >= 0.005;
  if (row.method == FitMethod::Repitch) {
    std::snprintf(text, sizeof text, "repitched %+.2f st", shift);
    out = moved ? text : "as it is";
  } else {
    std::snprintf(text, sizeof text, "stretched by %+.1f %%", row.stretchPercent);
    out = row.method == FitMethod::Stretch ? text : "re-spaced";
    std::snprintf(text, sizeof text, ", moved %+.2f st", shift);
    if (moved) out += text;
  }
  if (!timed) out += ", not in time";
  return out;
}

} // namespace

void Session::audition(std::shared_ptr<const Source> source) {
  if (!source) return endAudition();
  m_auditioned = {source->hash, source->name, {}, {}, false};
  ++m_auditionRun; // another source: it begins on this bar
  m_audition.which = m_auditionRun;
  playAudition(std::move(source));
  emit auditionChanged();
}

void Session::endAudition() {
  if (m_auditionJob) m_auditionJob->cancel();
  ++m_auditionRun;
  m_auditionSource.reset();
  m_auditioned = {};
  m_audition = {};
  m_asItIsSince = -1;
  rebuildScore();
  emit auditionChanged();
}

void Session::hearAsItIs(const std::shared_ptr<const Source>& source) {
  if (!source->sound) return;
  endAudition();
  const std::uint32_t run = m_auditionRun;
  m_auditioned = {source->hash, source->name, "as it is", {}, false};
  m_auditionJob = m_quick.run([this, source, run](JobContext& job) {
    auto sound = source->sound;
    if (sound->rate() != kEngineRate) sound = *resample(*sound, kEngineRate);
    if (job.cancelled()) return;
    later([this, run, sound] {
      if (run != m_auditionRun) return;
      m_audition = {sound, false, true, 1, run};
      m_auditioned.sounding = true;
      m_asItIsSince = m_clock.elapsed();
      rebuildScore();
      emit auditionChanged();
    });
  });
}

Seconds Session::placeAsItIs() const {
  return m_asItIsSince < 0 ? Seconds(-1)
                           : toSeconds(Milliseconds(double(m_clock.elapsed() - m_asItIsSince)));
}

void Session::playAudition(std::shared_ptr<const Source> source) {
  if (m_auditionJob) m_auditionJob->cancel();
  m_auditionSource = source;
  m_auditionBeat = beatNow();
  const std::uint32_t run = m_auditionRun;
  const BeatFrame frame{project().tempo, quartersOf(meter()), kEngineRate};
  const FitQuestion question = fitQuestion(*source, project().tempo, project().key);
  m_auditionJob = m_quick.run([this, source, run, frame, question](JobContext& job) {
    auto whole = std::make_shared<Source>(*source);
    whole->sound = soundOf(*source, job);
    if (job.cancelled()) return;
    // Without tempo and key it is played as it is.
    const FitRow row = wayToHear(question).value_or(FitRow{});
    auto fitted = fitToBeat(*whole, row, frame, job);
    if (job.cancelled()) return;
    const double lufs = fitted ? hearLoudness(*fitted->sound).integratedLufs : 0;
    later([this, run, whole, row, fitted = std::move(fitted), lufs] {
      if (run != m_auditionRun) return;
      if (fitted) return showAudition(whole, row, *fitted, lufs);
      emit message(QString::fromStdString(fitted.error().text()), true);
      endAudition();
    });
  });
}

void Session::showAudition(const std::shared_ptr<const Source>& source, const FitRow& row,
                           const FittedSound& fitted, double lufs) {
  m_auditionSource = source; // with its sound: the next tempo needs no reading
  const double beat = m_measure.loudness.integratedLufs;
  const bool beside = !m_measure.barLoudness.empty() && std::isfinite(beat);
  const double target = beside ? beat - kUnderBeatDb : kAloneLufs;
  double gain = std::isfinite(lufs) ? gainOf(Decibels(std::min(kMostBoostDb, target - lufs))) : 1;
  const double peak = double(peakOf(*fitted.sound, Frames(0), fitted.sound->frames()));
  if (peak > 0) gain = std::min(gain, kMostPeak / peak);
  m_audition.sound = fitted.sound;
  m_audition.loops = fitted.loops;
  m_audition.gain = float(gain);
  m_auditioned.how = howText(row, fitted.loops || !gridOf(*source));
  m_auditioned.heard = row.heard;
  m_auditioned.sounding = true;
  rebuildScore();
  emit auditionChanged();
}

} // namespace tuvvo

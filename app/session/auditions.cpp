#include "session/auditions.h"

#include "audio/decode.h"
#include "audio/resample.h"
#include "listen/levels.h"
#include "words/fit_words.h"

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

Auditions::Auditions(Document& document, JobService& jobs, Player& player, Transport& transport,
                     const SongMeter& meter)
    : m_document(document), m_jobs(jobs), m_player(player), m_transport(transport), m_meter(meter) {
  connect(&player, &Player::auditionEnded, this, &Auditions::end);
  connect(&document, &Document::workEnds, this, [this] {
    if (m_source) end();
  });
  connect(&document, &Document::changed, this, [this] {
    if (m_source && m_beat != beatNowOf(m_document.project())) play(m_source);
  });
}

void Auditions::audition(const SourcePtr& source) {
  m_laid.reset();
  begin(source);
}

void Auditions::auditionOver(const SourcePtr& under, const SourcePtr& over, const Overlay& way) {
  m_laid = {under, way};
  begin(over);
}

void Auditions::begin(const SourcePtr& source) {
  if (!source) return end();
  m_heard = {source->hash, source->name, {}, {}, false};
  ++m_run; // another source: it begins on this bar
  m_audition.which = m_run;
  play(source);
  emit changed();
}

void Auditions::end() {
  if (m_job) m_job->cancel();
  ++m_run;
  m_source.reset();
  m_laid.reset();
  m_heard = {};
  m_audition = {};
  m_asItIs.invalidate();
  m_player.setAudition(m_audition);
  emit changed();
}

void Auditions::playAsItIs(const std::shared_ptr<const Source>& source) {
  if (!source->sound) return;
  end();
  const std::uint32_t run = m_run;
  m_heard = {source->hash, source->name, "as it is", {}, false};
  m_job = m_jobs.runQuick([this, source, run](JobContext& job) {
    auto sound = source->sound;
    if (sound->rate() != kEngineRate) sound = *resample(*sound, kEngineRate);
    if (job.cancelled()) return;
    m_jobs.later([this, run, sound] {
      if (run != m_run) return;
      m_audition = {sound, false, true, 1, run};
      m_heard.sounding = true;
      m_asItIs.start();
      m_player.setAudition(m_audition);
      emit changed();
    });
  });
}

Seconds Auditions::placeAsItIs() const {
  return m_asItIs.isValid() ? toSeconds(Milliseconds(double(m_asItIs.elapsed()))) : Seconds(-1);
}

void Auditions::play(const SourcePtr& source) {
  if (m_job) m_job->cancel();
  m_source = source;
  m_beat = beatNowOf(m_document.project());
  const std::uint32_t run = m_run;
  const BeatFrame frame{m_document.project().tempo, quartersOf(m_transport.meter()), kEngineRate};
  const FitQuestion question =
      fitQuestion(*source, m_document.project().tempo, m_document.project().key);
  m_job = m_jobs.runQuick([this, source, run, frame, question, laid = m_laid](JobContext& job) {
    auto whole = std::make_shared<Source>(*source);
    whole->sound = soundOf(*source, job);
    if (job.cancelled()) return;
    auto fitted = laid ? fitOver(whole, *laid, frame, job) : fitOne(whole, question, frame, job);
    if (job.cancelled()) return;
    m_jobs.later([this, run, whole, fitted = std::move(fitted)] {
      if (run != m_run) return;
      if (fitted) return show(whole, *fitted);
      emit message(QString::fromStdString(fitted.error().text()), true);
      end();
    });
  });
}

Result<Auditions::Fitted> Auditions::fitOne(const std::shared_ptr<const Source>& whole,
                                            const FitQuestion& question, const BeatFrame& frame,
                                            JobContext& job) {
  // Without tempo and key it is played as it is.
  const FitRow row = wayToHear(question).value_or(FitRow{});
  auto fitted = fitToBeat(*whole, row, frame, job);
  if (!fitted) return fitted.error();
  Fitted out{std::move(fitted).value(), {}, tuvvo::soundOf(row)};
  out.how = howText(row, out.sound.loops || !gridOf(*whole));
  out.lufs = analyseLoudness(*out.sound.sound).integratedLufs;
  return out;
}

Result<Auditions::Fitted> Auditions::fitOver(const std::shared_ptr<const Source>& whole,
                                             const Laid& laid, const BeatFrame& frame,
                                             JobContext& job) {
  Source under = *laid.under;
  under.sound = soundOf(under, job);
  const auto question = OverlayQuestion::of(under, *whole);
  if (!question)
    return Error{"One of them has no tempo", whole->name, "Tap its tempo, then try again."};
  auto laidOver = layOver(under, *whole, *question, laid.way, frame, job);
  if (!laidOver) return laidOver.error();
  Fitted out{std::move(laidOver).value(), "over " + under.name, {}};
  out.lufs = analyseLoudness(*out.sound.sound).integratedLufs;
  return out;
}

void Auditions::show(const std::shared_ptr<const Source>& source, const Fitted& fitted) {
  m_source = source; // with its sound: the next tempo needs no reading
  const double beat = m_meter.measure().loudness.integratedLufs;
  const bool beside = !m_meter.measure().barLoudness.empty() && std::isfinite(beat);
  const double target = beside ? beat - kUnderBeatDb : kAloneLufs;
  double gain = std::isfinite(fitted.lufs)
                    ? gainOf(Decibels(std::min(kMostBoostDb, target - fitted.lufs)))
                    : 1;
  const Sound& sound = *fitted.sound.sound;
  const double peak = double(peakOf(sound, Frames(0), sound.frames()));
  if (peak > 0) gain = std::min(gain, kMostPeak / peak);
  m_audition.sound = fitted.sound.sound;
  m_audition.loops = fitted.sound.loops;
  m_audition.gain = float(gain);
  m_heard.how = fitted.how;
  m_heard.heard = fitted.heard;
  m_heard.sounding = true;
  m_player.setAudition(m_audition);
  emit changed();
}

} // namespace tuvvo

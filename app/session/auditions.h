// Hearing a source beside the beat, or alone as it is.
#pragma once

#include "crate/query.h"
#include "session/player.h"
#include "session/song_meter.h"
#include "session/transport.h"
#include "shape/lay_over.h"

namespace tuvvo {

/// One source at a time, of the beat or of the crate; it is brought to the beat's tempo and key in
/// the background, and again when those change.
class Auditions : public Service {
  Q_OBJECT
public:
  /// @param meter  knows how loud the beat is
  Auditions(Document& document, JobService& jobs, Player& player, Transport& transport,
            const SongMeter& meter);

  /// What is auditioned, known by its sound.
  struct Heard {
    std::string hash; ///< empty: nothing
    std::string name;
    std::string how;   ///< "repitched −1.36 st", "stretched by 8 %"; empty until it sounds
    std::string heard; ///< what that does to it
    bool sounding = false;
  };
  [[nodiscard]] const Heard& heard() const { return m_heard; }

  /// Plays a source in phase with the bars, as loud as the beat less three dB; whatever was
  /// auditioned ends. The source may come without its sound: then its file is read.
  void audition(const SourcePtr& source);
  /// Plays one source over another, both brought to the beat.
  void auditionOver(const SourcePtr& under, const SourcePtr& over, const Overlay& way);
  void end();
  [[nodiscard]] bool hears(const Source& source) const {
    return !m_heard.hash.empty() && m_heard.hash == source.hash && !m_laid;
  }
  [[nodiscard]] bool hearsOver(const Source& under, const Source& over, const Overlay& way) const {
    return m_laid && m_laid->way == way && m_laid->under->hash == under.hash &&
           m_heard.hash == over.hash;
  }
  /// Auditions a source, or ends it where it is what is auditioned.
  void toggle(const SourcePtr& source) { hears(*source) ? end() : audition(source); }
  /// A source with its sound, alone, once, at its own speed and level.
  void playAsItIs(const std::shared_ptr<const Source>& source);
  /// How far hearAsItIs() has come; below 0 when it is not heard.
  [[nodiscard]] Seconds placeAsItIs() const;

signals:
  void changed();

private:
  struct Laid {
    SourcePtr under;
    Overlay way;
  };
  /// A source, or what lies over it, as it comes to sound.
  struct Fitted {
    FittedSound sound;
    std::string how, heard;
    double lufs = 0;
  };
  static Result<Fitted> fitOne(const std::shared_ptr<const Source>& whole,
                               const FitQuestion& question, const BeatFrame& frame,
                               JobContext& job);
  static Result<Fitted> fitOver(const std::shared_ptr<const Source>& whole, const Laid& laid,
                                const BeatFrame& frame, JobContext& job);
  void begin(const SourcePtr& source);
  void play(const SourcePtr& source);
  void show(const std::shared_ptr<const Source>& source, const Fitted& fitted);

  Document& m_document;
  JobService& m_jobs;
  Player& m_player;
  Transport& m_transport;
  const SongMeter& m_meter;
  Heard m_heard;
  std::shared_ptr<const Source> m_source;
  std::optional<Laid> m_laid; ///< where it is heard over another
  Audition m_audition;
  BeatNow m_beat;
  std::shared_ptr<JobContext> m_job;
  std::uint32_t m_run = 0;
  QElapsedTimer m_asItIs; ///< since it is heard; not valid: it is not
};

} // namespace tuvvo

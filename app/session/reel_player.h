// What plays into the simulated inputs.
#pragma once

#include "base/jobs.h"
#include "devices/simulated_input.h"
#include "session/player.h"

namespace tuvvo {

/// The player on the simulated line and the simulated microphone. Lives on the interface thread.
class ReelPlayer : public Service {
  Q_OBJECT
public:
  ReelPlayer(Document& document, JobService& jobs, Player& player);

  /// The input in use was opened: what it plays is laid before it.
  void prepare();
  /// A file, or a sound of the beat or of the crate by its file, as if on a disc or a tape.
  void playFile(const QString& path);
  void playSound(const QString& name, SoundPtr sound);
  [[nodiscard]] const QString& name() const { return m_name; }
  [[nodiscard]] const LineSettings& settings() const { return m_settings; }
  void set(const LineSettings& settings);
  void start();
  void stop();
  [[nodiscard]] bool runs() const;
  [[nodiscard]] Seconds place() const;
  [[nodiscard]] Seconds length() const;

signals:
  void changed();

private:
  [[nodiscard]] SimulatedInput* input() const;
  void lay();

  Document& m_document;
  Player& m_player;
  QString m_name;
  SoundPtr m_sound, m_microphone;
  LineSettings m_settings;
  int m_run = 0;
  JobPool m_pool; ///< last: ends first
};

} // namespace tuvvo

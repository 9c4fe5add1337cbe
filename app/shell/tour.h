// A tour of five steps on the demonstration, done by doing: each waits for what it asks for.
#pragma once

#include "session/auditions.h"
#include "session/recorder.h"

namespace tuvvo {

class Tour : public QObject {
  Q_OBJECT
public:
  struct Uses {
    Document& document;
    Player& player;
    Transport& transport;
    Recorder& recorder;
    Auditions& auditions;
  };
  explicit Tour(const Uses& uses);

  enum class Step { HearSource, PlaySlices, KeepPlayed, SetHit, PlaySong };
  static constexpr int kSteps = 5;

  /// From the first step on, on what is open.
  void begin();
  void end();
  /// Whether or not the step was done; after the last one the tour ends.
  void next();
  [[nodiscard]] bool running() const { return m_running; }
  [[nodiscard]] Step step() const { return m_step; }
  /// What the step asks for was done.
  [[nodiscard]] bool done() const { return m_done; }

signals:
  void changed();

private:
  void beginStep(Step step);
  void finish(Step step, bool happened);

  Document& m_document;
  bool m_running = false, m_done = false;
  Step m_step = Step::HearSource;
  std::vector<PatternPtr> m_before; ///< the patterns when the step began
};

} // namespace tuvvo

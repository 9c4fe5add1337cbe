// Hearing what a note would change, before it is taken.
#pragma once

#include "notes/notes.h"
#include "session/transport.h"

namespace tuvvo {

/// Plays the chosen pattern as a note's fix would have it, as loud as it is without: what is louder
/// seems better. One note at a time; any edit ends it.
class NoteTrial : public Service {
  Q_OBJECT
public:
  NoteTrial(Document& document, JobService& jobs, Player& player, Transport& transport);

  /// Starts the music where it stands still.
  void hearAfter(const Note& note);
  void hearBefore();
  /// The note that is heard as it would be; empty: none.
  [[nodiscard]] const std::string& heard() const { return m_heard; }
  /// How far the sound with the fix is turned up or down to be as loud as the one without.
  [[nodiscard]] Decibels matchedBy() const { return m_matchedBy; }

signals:
  void changed();

private:
  Document& m_document;
  JobService& m_jobs;
  Player& m_player;
  Transport& m_transport;
  std::string m_heard;
  Decibels m_matchedBy{0};
  int m_run = 0;
};

} // namespace tuvvo

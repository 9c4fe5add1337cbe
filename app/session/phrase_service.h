// Long takes and what is found in them.
#pragma once

#include "audio/peaks.h"
#include "base/jobs.h"
#include "catch/phrases.h"
#include "catch/take_file.h"
#include "session/auditions.h"
#include "session/catch_service.h"

namespace tuvvo {

/// Lives on the interface thread; takes are read and heard beside it.
class PhraseService : public Service {
  Q_OBJECT
public:
  PhraseService(Document& document, JobService& jobs, Auditions& auditions, CatchService& catching);

  /// Takes that lie on disc, the latest first.
  [[nodiscard]] const std::vector<FoundTake>& takes() const { return m_takes; }
  /// Looks for them anew. @param atStart  says so where one did not come to its end
  void look(bool atStart = false);

  struct Row {
    Phrase phrase;
    double cost = 0; ///< to the beat as it is now
    bool starred = false;
    bool kept = false; ///< it is in the beat and in the crate
  };
  /// Opens a take and finds its phrases; the one that was open is closed.
  void open(const std::filesystem::path& take);
  void close();
  [[nodiscard]] const std::filesystem::path& path() const { return m_path; }
  [[nodiscard]] const SoundPtr& sound() const { return m_sound; }
  /// Of the take that is open; null for none.
  [[nodiscard]] const PeaksPtr& peaks() const { return m_peaks; }
  [[nodiscard]] TakeAbout about() const;
  [[nodiscard]] bool sifting() const { return m_job != nullptr; }

  enum class Order { Fit, Time };
  [[nodiscard]] Order order() const { return m_order; }
  void setOrder(Order order);
  [[nodiscard]] const std::vector<Row>& rows() const { return m_rows; }

  void star(std::size_t row);
  /// Plays a phrase as it is, or brought to the beat beside the music; the one that sounds ends.
  void play(std::size_t row, bool toTheBeat);
  /// The row that is heard now; −1 for none.
  [[nodiscard]] int sounding() const;
  /// Into the beat and the crate, with its lineage.
  void keep(std::size_t row);
  /// All that are starred and not kept yet. @returns how many
  int keepStarred();
  /// The take goes to the trash; what was kept of it stays.
  void dropRest();
  /// Takes back the last dropRest().
  void putBack();
  [[nodiscard]] bool canPutBack() const { return !m_dropped.isEmpty(); }

signals:
  void changed();

private:
  void sift();
  void rank();
  [[nodiscard]] std::shared_ptr<Source> sourceOf(const Row& row) const;

  Document& m_document;
  Auditions& m_auditions;
  CatchService& m_catching;
  std::vector<FoundTake> m_takes;
  std::filesystem::path m_path;
  SoundPtr m_sound;
  PeaksPtr m_peaks;
  BeatNow m_rankedFor;
  Order m_order = Order::Fit;
  std::vector<Row> m_rows;
  std::shared_ptr<JobContext> m_job;
  int m_run = 0;
  std::string m_heardHash;
  Frames m_heardStart{0};
  QString m_dropped, m_droppedFrom; ///< in the trash, and where it lay
  JobPool m_pool;                   ///< last: ends first
};

} // namespace tuvvo

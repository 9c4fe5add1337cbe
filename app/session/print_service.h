// Writing what is heard: the song, its stems, MIDI files, slices.
#pragma once

#include "formats/slices_out.h"
#include "play/print.h"
#include "session/files.h"
#include "session/player.h"

namespace tuvvo {

/// All of it in jobs; nothing is written over the sounds of the beat or its project.
class PrintService : public Service {
  Q_OBJECT
public:
  PrintService(Document& document, JobService& jobs, Player& player, Files& files)
      : m_document(document), m_jobs(jobs), m_player(player), m_files(files) {}

  struct Request {
    PrintFile file;
    PrintOptions options;
    bool stems = false;
    bool midi = false; ///< a MIDI file beside it
    [[nodiscard]] std::filesystem::path stemsFolder() const;
    [[nodiscard]] std::filesystem::path midiFile() const;
  };
  void printSong(const Request& request, Replace replace = Replace::No);
  /// Writes the slices of a source for other programs (formats/slices_out.h).
  void writeSlicesTo(Id source, const SlicesOut& options, Replace replace = Replace::No);
  /// Writes a pattern as a MIDI file.
  void writePattern(Id pattern, const std::filesystem::path& file, Replace replace);

  /// Files that would be written over.
  [[nodiscard]] QStringList replacedBy(const Request& request) const;
  [[nodiscard]] QStringList replacedBy(Id source, const SlicesOut& options) const;

private:
  [[nodiscard]] Outputs outputs(Replace replace) const;
  void sayLater(const QString& text, bool trouble);

  Document& m_document;
  JobService& m_jobs;
  Player& m_player;
  Files& m_files;
};

} // namespace tuvvo

// What is open, playing and selected: the one place where windows meet the core.
#pragma once

#include "audio/peaks.h"
#include "base/folder_lock.h"
#include "base/jobs.h"
#include "beat/hand.h"
#include "beat/played_tempo.h"
#include "beat/timing.h"
#include "crate/scanner.h"
#include "crate/service.h"
#include "cut/fit.h"
#include "devices/live_sound.h"
#include "formats/bundle.h"
#include "formats/slices_out.h"
#include "listen/tap_tempo.h"
#include "model/history.h"
#include "notes/notes.h"
#include "play/print.h"
#include "session/autosaver.h"
#include "session/catch_service.h"
#include "session/controller_service.h"
#include "session/recent_projects.h"
#include "session/sifter.h"
#include "session/sound_memory.h"
#include "session/stand_in.h"
#include "shape/fit_to_beat.h"

#include <QElapsedTimer>
#include <QFileSystemWatcher>
#include <QHash>
#include <QObject>
#include <QStringList>
#include <QTimer>
#include <deque>
#include <filesystem>
#include <future>

namespace tuvvo {

/// Lives on the interface thread. Jobs hand their values back to it through the event loop.
class Session : public QObject {
  Q_OBJECT
public:
  explicit Session(QObject* parent = nullptr);
  ~Session() override;

  // ---- document (session.cpp) ----
  [[nodiscard]] const Project& project() const { return *m_history.current(); }
  [[nodiscard]] ProjectPtr projectPtr() const { return m_history.current(); }
  /// @param merge  edits under the same merge name, one after the other, are one step
  void edit(const QString& name, Project next, const QString& merge = {});
  void settle() { m_history.settle(); }
  [[nodiscard]] const History& history() const { return m_history; }
  void undo();
  void redo();
  void goToStep(std::size_t place);

  struct Selection {
    Id source = 0, cut = 0, key = 0, pattern = 0, section = 0;
    int page = 0;
    std::set<Id> alsoCuts; ///< of the same source, chosen together with `cut`
    bool operator==(const Selection&) const = default;
  };
  [[nodiscard]] const Selection& selection() const { return m_selection; }
  void select(const Selection& selection);
  void selectSource(Id source);
  /// Selects a key with what it plays.
  void selectKey(Id key);
  void selectCut(Id source, Id cut);
  /// Chooses more slices of a source together with the chosen one, or all up to one.
  void toggleCut(Id cut);
  void extendToCut(Id cut);
  void selectAllCuts();
  /// The keys of the chosen slices, in the order of the deck.
  [[nodiscard]] std::vector<Id> chosenKeys() const;
  void selectPattern(Id pattern);
  void selectSection(Id section);
  void setPage(int page);

  [[nodiscard]] PeaksPtr peaksOf(const Source& source);
  [[nodiscard]] LoudnessCache& loudness() { return *m_loudness; }
  [[nodiscard]] const std::vector<Note>& notes() const { return m_notes; }
  void doNote(std::size_t index);
  void hushNote(std::size_t index);
  /// One tap of the tempo key; with two and more the beat's tempo follows.
  void tapTempo();
  [[nodiscard]] std::optional<TappedTempo> tapped() const { return m_taps.tempo(); }

  // ---- sound (session_sound.cpp) ----
  [[nodiscard]] Engine& engine() { return m_engine; }
  [[nodiscard]] LiveSound& liveSound() { return m_liveSound; }
  void openSound(const SoundChoice& choice);
  /// Opens it, and the next start does too.
  void chooseSound(const SoundChoice& choice);
  [[nodiscard]] SoundMemory& soundMemory() { return m_soundMemory; }
  [[nodiscard]] CatchService& catching() { return *m_catch; }
  [[nodiscard]] Sifter& sifter() { return *m_sifter; }
  [[nodiscard]] StandIn& standIn() { return *m_standIn; }
  /// How what comes in is heard has changed.
  void refreshMonitor() { rebuildScore(); }
  enum class Plays { Pattern, Song };
  static constexpr int kPracticeBars = 2;
  [[nodiscard]] Plays plays() const { return m_plays; }
  void setPlays(Plays plays);
  [[nodiscard]] bool playing() const { return m_playing; }
  [[nodiscard]] bool recording() const { return m_recording; }
  [[nodiscard]] bool metronome() const { return m_metronome; }
  /// In the pattern or the song, in beats; negative while counting in.
  [[nodiscard]] double positionBeats() const;
  /// Of what is played: the chosen pattern, or the song's first section.
  [[nodiscard]] Meter meter() const;
  void togglePlay();
  void play(double fromBeats = 0);
  void stop();
  void seek(double beats);
  void setMetronome(bool on);
  struct Click {
    int sound = 0;     ///< 0 to Engine::kClickSounds − 1
    Decibels level{0}; ///< −30 to +9
    int countIn = 1;   ///< bars; 0 to 2
    bool operator==(const Click&) const = default;
  };
  [[nodiscard]] const Click& click() const { return m_click; }
  void setClick(const Click& click);
  /// Plays a key once, as heard in passing: no take keeps it. A held key is let go after a second.
  void hear(Id key, double velocity, Semitones tune = Semitones(0));

  // ---- hands (session_hand.cpp) ----
  /// How keys are played that have no velocity of their own, and what a held one does.
  struct HandSettings {
    double velocity = 0.8; ///< 0.05 to 1
    double soft = 0;       ///< spread of a soft hand; 0 to 0.3
    std::optional<SpreadBy> spread;
    Id spreadKey = 0;        ///< what lies under all keys while there is a spread
    bool roll = false;       ///< held keys repeat
    double rollBeats = 0.25; ///< 1/16 to 4
    double swell = 0;        ///< velocity a beat, −1 to 1
    double climb = 0;        ///< semitones a beat, −24 to 24
    bool erase = false;      ///< held keys take their hits out of the pattern as it passes
    bool operator==(const HandSettings&) const = default;
  };
  [[nodiscard]] const HandSettings& hand() const { return m_hand; }
  void setHand(const HandSettings& hand);
  /// Lays one sound over the whole deck, or takes it off again. By length needs a held key: it is
  /// made one.
  void setSpread(std::optional<SpreadBy> by);
  /// The key that a place of the deck plays now; null for none.
  [[nodiscard]] const Key* keyUnder(Row row, int column) const;
  struct Press {
    Row row = Row::Body;
    int column = 0;
    std::uint32_t touch = 0; ///< which finger; not 0
    double velocity = 0;     ///< 0: the hand's own
  };
  /// A finger comes down on the deck. @returns the key it plays; 0 for none
  Id press(const Press& press);
  void lift(std::uint32_t touch);
  /// A finger presses harder: its roll goes on with that velocity.
  void pressHarder(std::uint32_t touch, double velocity);
  /// A key by its name alone, held until it is let go.
  void strike(Id key, double velocity);
  void release(Id key);

  /// Frames that a hit of a key is held by itself; 0 for as long as a finger is down.
  [[nodiscard]] std::int64_t holdOf(const Key& key, const HandHit& hit) const;
  [[nodiscard]] ControllerService& controllers() { return *m_controllers; }

  // ---- takes (session_take.cpp) ----
  /// Counts in and writes what is struck; again, or stop, ends the take.
  void toggleRecord();
  /// The first hit on a part takes out what the part had in the pattern.
  [[nodiscard]] bool replaces() const { return m_replaces; }
  void setReplaces(bool on);
  /// Repeats the first two bars of the pattern and watches how they are played; writes nothing.
  void togglePractice();
  [[nodiscard]] bool practising() const { return m_practising; }
  struct Round {
    TimingFigures figures;
    std::vector<StruckHit> hits;
  };
  [[nodiscard]] const std::vector<Round>& rounds() const { return m_rounds; }
  /// How the last take was played.
  [[nodiscard]] const TimingPicture& timing() const { return m_timing; }
  /// The last minutes played, recorded or not, can be laid into the pattern.
  struct Caught {
    std::vector<std::vector<StruckHit>> rounds; ///< as long as the pattern each, oldest first
    std::size_t round = 0;                      ///< the one that is laid
    std::optional<PlayedTempo> tempo;           ///< where nothing was playing
  };
  void catchThat();
  [[nodiscard]] const Caught& caught() const { return m_caught; }
  /// Lays another round of what was caught in place of the one that is laid.
  void layRound(std::size_t round);
  /// Brings the beat to the tempo that was played.
  void takeCaughtTempo(Bpm tempo);
  /// Pulls hits of the pattern to the grid.
  void quantise(const QuantiseOptions& options);

  // ---- hearing a source beside the beat (session_audition.cpp) ----
  /// What is auditioned: a source of the beat or of the crate, known by its sound.
  struct Auditioned {
    std::string hash; ///< empty: nothing
    std::string name;
    std::string how;   ///< "repitched −1.36 st", "stretched by 8 %"; empty until it sounds
    std::string heard; ///< what that does to it
    bool sounding = false;
  };
  /// Brings a source to the beat's tempo and key in the background and plays it in phase with the
  /// bars, as loud as the beat less three dB; whatever was auditioned ends. The source may come
  /// without its sound: then its file is read.
  void audition(std::shared_ptr<const Source> source);
  void endAudition();
  /// A source with its sound, alone, once, at its own speed and level.
  void hearAsItIs(const std::shared_ptr<const Source>& source);
  /// How far hearAsItIs() has come; below 0 when it is not heard.
  [[nodiscard]] Seconds placeAsItIs() const;
  [[nodiscard]] const Auditioned& auditioned() const { return m_auditioned; }

  // ---- the crate (session_crate.cpp) ----
  /// Opens the crate of this user, or of a folder for tests; done at the first call of crate().
  void openCrate(const std::filesystem::path& folder);
  /// Opens this user's crate beside the interface; whoever asks for it meanwhile waits.
  void prepareCrate();
  /// Null when it cannot be opened; a message has said why.
  [[nodiscard]] Crate* crate();
  /// Null until the crate is open.
  [[nodiscard]] Bakery::Progress baking() const { return m_bakery.progress(); }
  /// What the engine plays now; never null after the first beat was made or opened.
  [[nodiscard]] ScorePtr score() const { return m_score; }
  /// Until everything that sounds now is baked and in the score.
  void waitForBakes();
  [[nodiscard]] Scanner* scanner() { return m_scanner.get(); }
  [[nodiscard]] BeatNow beatNow() const { return {project().tempo, project().key}; }
  /// Watches a folder and hears what is in it.
  void addFolder(const QString& folder);
  void removeFolder(const QString& folder);
  void scanNow();
  /// Takes a source of the crate into the beat; selects it.
  void keep(CrateId id);
  /// Copies an item of the simulated service into the crate with its licence.
  void getFromService(const SampleService& service, std::size_t item);
  /// Watches the folder of a sound that has come, and notes by its content what is known of it.
  void keepInCrate(const std::filesystem::path& folder, const std::string& hash,
                   const Marks& marks);
  /// Marks of a sound, kept by content; can be undone like any edit.
  void markSound(const QString& name, const std::string& hash, const Marks& marks,
                 const QString& merge = {});
  [[nodiscard]] Marks marksOf(const std::string& hash);
  [[nodiscard]] std::array<float, 2> peaks() const { return m_peaks; }
  [[nodiscard]] float levelOf(Id key) const { return m_levels.value(key, 0.0f); }

  // ---- sounds made of sounds (session_made.cpp) ----
  /// Plays each key once with all that acts on it and puts the result in its place.
  void bounceInPlace(const std::vector<Id>& keys);
  /// A new source: a whole one with a first treatment; it is selected when it is there.
  void treatWhole(Id source, const Treatment& first);
  /// Another recipe for a made source, played anew in the background; the last one asked for wins.
  /// @param merge  as in edit()
  void remake(Id source, const Recipe& made, const QString& merge = {});
  /// The recipe of a made source: the one asked for last, whether it is there yet or not.
  [[nodiscard]] std::shared_ptr<const Recipe> recipeNow(Id source) const;
  void stopBaking();
  void resumeBaking();

  // ---- what is open (session_open.cpp) ----
  void startNew();
  void startDemo();
  /// Opens what was open last where that was not saved; else a new beat.
  void startWhereYouLeft();
  /// Says which work was not saved, where something else is opened.
  void offerUnsaved();
  /// Reads a project in the background; it takes the place of what is open when it is there. One
  /// that is open in another window is opened for looking.
  void open(const QString& folder);
  [[nodiscard]] const RecentProjects& recent() const { return m_recent; }

  // ---- files (session_files.cpp) ----
  /// Reads sounds in the background, listens to them, adds them.
  void importFiles(const QStringList& paths);
  bool save();
  /// @param replace  whether a project that is there may be written over (its states are kept in
  ///                 its history all the same)
  bool saveAs(const QString& folder, Replace replace = Replace::No);
  /// Whether another project lies where one is to be saved.
  [[nodiscard]] bool holdsAnother(const QString& folder) const;
  [[nodiscard]] QString folder() const { return QString::fromStdString(m_folder.string()); }
  [[nodiscard]] bool unsaved() const { return m_savedStep != m_history.current(); }
  [[nodiscard]] bool readOnly() const { return m_readOnly; }
  /// Autosaves at once; called when the window closes.
  void keepForNextStart() {
    m_catch->finish();
    autosaveNow();
  }
  struct PrintRequest {
    PrintFile file;
    PrintOptions options;
    bool stems = false;
    bool midi = false; ///< a MIDI file beside it
    [[nodiscard]] std::filesystem::path stemsFolder() const;
    [[nodiscard]] std::filesystem::path midiFile() const;
  };
  /// Files that a print would write over.
  [[nodiscard]] QStringList replacedBy(const PrintRequest& request) const;
  [[nodiscard]] QStringList replacedBy(Id source, const SlicesOut& options) const;
  void printSong(const PrintRequest& request, Replace replace = Replace::No);
  /// Writes the slices of a source for other programs (formats/slices_out.h).
  void writeSlicesTo(Id source, const SlicesOut& options, Replace replace = Replace::No);
  /// What nothing that is written may be written over: the sounds of the beat, and its project.
  [[nodiscard]] Outputs outputs(Replace replace) const;
  void cancelJob();
  /// What runs in the background, 0 to 1; empty text when nothing does.
  [[nodiscard]] QString jobText() const { return m_jobText; }
  [[nodiscard]] double jobDone() const { return m_job ? m_job->done() : 0; }
  /// Loudness and spectrum of the printed song, measured in the background after edits.
  struct SongMeasure {
    LoudnessHeard loudness;
    std::vector<float> barLoudness; ///< LUFS a bar
    std::vector<std::pair<Id, std::vector<float>>>
        spectra; ///< a part: 24 bands, dB below the loudest
  };
  [[nodiscard]] const SongMeasure& measure() const { return m_measure; }
  void waitForJobs();
  /// Says as a message why a job ended before its end; for pools of those around it.
  [[nodiscard]] const JobPool::Trouble& troubleTeller() const { return m_sayTrouble; }

signals:
  /// Something was baked, or is about to be.
  void bakeMoved();
  void changed();
  void selectionChanged();
  void notesChanged();
  void transportChanged();
  void handChanged();
  /// A take ended, a round of practice did, or something was caught.
  void takeChanged();
  void measured();
  void jobChanged();
  /// About 30 times a second while something may move.
  void tick();
  /// The crate, its scan or what is auditioned.
  void crateChanged();
  void scanMoved();
  void auditionChanged();
  /// @param trouble  shown in coral until the next message
  void message(const QString& text, bool trouble);
  /// There is work that was not saved, where something else was asked for.
  void unsavedFound(const QString& name, const QString& folder);

private:
  void documentChanged();
  void rebuildScore();
  /// Has at hand what sounds next of long sounds.
  void refreshNotes();
  void refreshMeasure();
  void poll();
  void takeReports();
  void struck(const Engine::Report& report);
  void lifted(const Engine::Report& report);
  void layPending(bool all);
  void layHits(const std::vector<StruckHit>& hits, std::int64_t pass);
  void eraseOn();
  void finishTake();
  void finishPractice();
  void beginRound(std::int64_t round);
  void finishRound();
  [[nodiscard]] std::int64_t heardNow() const;
  void sendStrike(Id key, const HandHit& hit, std::uint32_t touch);
  void resetTo(Project project, const std::filesystem::path& folder, SavedState state);
  void resetToFresh(Project project, const QString& name);
  void leaveFolder();
  [[nodiscard]] std::optional<RecentProjects::Entry> leftUnsaved() const;
  void takeOpened(const std::filesystem::path& folder, OpenedProject opened,
                  FolderLock::Taken lock);
  void hearUnheard();
  void autosave();
  void autosaveNow();
  void takeAutosaved(std::optional<Autosaver::Saved> saved);
  void moveToCopy();
  void saveTo(const std::filesystem::path& folder);
  void playAudition(std::shared_ptr<const Source> source);
  void showAudition(const std::shared_ptr<const Source>& source, const FitRow& row,
                    const FittedSound& fitted, double lufs);
  void pollCrate();
  void takeCrate(const std::filesystem::path& folder, Result<Crate::Opened> opened);
  void watchFolders();
  void takeCrateSteps(std::size_t from, std::size_t to);
  void writeThrough();
  void rememberWritten();
  void startJob(const QString& text, JobPool::Job job);
  void keepSelectionAlive();
  /// Runs on the interface thread, from any thread.
  void later(std::function<void()> action);

  History m_history;
  ProjectPtr m_savedStep, m_autosavedStep;
  Selection m_selection;
  QHash<QString, PeaksPtr> m_peaksByHash;
  std::vector<Note> m_notes;
  std::shared_ptr<LoudnessCache> m_loudness = std::make_shared<LoudnessCache>();
  TapTempo m_taps;
  QElapsedTimer m_clock;
  SongMeasure m_measure;

  Prefetcher m_prefetcher;
  Engine m_engine{&m_prefetcher};
  LiveSound m_liveSound{m_engine};
  SoundMemory m_soundMemory;
  ControllerService* m_controllers; ///< a child
  CatchService* m_catch = nullptr;  ///< a child
  Sifter* m_sifter = nullptr;       ///< a child
  StandIn* m_standIn = nullptr;     ///< a child
  ScorePtr m_score;
  Plays m_plays = Plays::Pattern;
  bool m_playing = false, m_recording = false, m_metronome = false;
  Auditioned m_auditioned;
  std::shared_ptr<const Source> m_auditionSource;
  Audition m_audition;
  BeatNow m_auditionBeat;
  std::shared_ptr<JobContext> m_auditionJob;
  std::uint32_t m_auditionRun = 0;
  qint64 m_asItIsSince = -1; ///< by m_clock, in ms; −1: not heard

  std::unique_ptr<Crate> m_crate;
  std::unique_ptr<Scanner> m_scanner;                ///< after the crate: ends before it
  std::future<Result<Crate::Opened>> m_crateOpening; ///< while it is opened
  bool m_crateTried = false, m_roundOpen = false;
  std::uint64_t m_crateSeen = 0;
  std::filesystem::path m_crateFolder;
  QFileSystemWatcher m_watcher;
  QTimer m_crateTimer, m_rescanTimer, m_provenanceTimer;
  struct CrateStep {
    std::string hash;
    Marks before, after;
  };
  std::map<std::size_t, CrateStep> m_crateSteps;                       ///< by place in the history
  std::map<std::string, std::pair<Corrections, Provenance>> m_written; ///< what the crate was told
  Click m_click;
  HandSettings m_hand;
  SoftHand m_softHand{1};
  QHash<std::uint32_t, Id> m_touched; ///< finger: the key it erases or plays
  struct Pending {
    StruckHit hit;           ///< `at` counts on over the passes
    std::uint32_t touch = 0; ///< 0: let go
  };
  std::vector<Pending> m_pending; ///< struck, not laid yet
  std::vector<StruckHit> m_take;  ///< all of a take or of a round of practice
  std::set<Id> m_replaced;        ///< parts that this take has emptied
  int m_takeNumber = 0;
  bool m_replaces = false, m_practising = false;
  std::vector<Round> m_rounds;
  std::int64_t m_round = 0;
  TimingPicture m_timing;
  struct Remembered {
    StruckHit hit; ///< `at` counts on over the passes where the music played
    bool playing = false;
    std::uint32_t touch = 0;
    std::int64_t play = 0; ///< how often the music had been started
  };
  std::deque<Remembered> m_memory;
  std::int64_t m_starts = 0;
  Caught m_caught;
  ProjectPtr m_caughtStep;           ///< as it was once the chosen round was laid
  QHash<Id, std::int64_t> m_erasing; ///< key: up to where its hits are out already
  std::array<float, 2> m_peaks{};
  QHash<Id, float> m_levels;

  std::filesystem::path m_folder;
  SavedState m_state; ///< of the folder
  bool m_readOnly = false;
  std::unique_ptr<FolderLock> m_lock; ///< of the folder; null where it is only looked at
  RecentProjects m_recent;
  QTimer m_pollTimer, m_autosaveTimer, m_watchTimer, m_settleTimer;
  QString m_jobText;
  std::shared_ptr<JobContext> m_job;
  bool m_notesRunning = false, m_notesStale = false;
  int m_measureRun = 0;
  std::map<Id, std::shared_ptr<const Recipe>> m_remaking; ///< asked for and not there yet
  std::map<Id, std::shared_ptr<JobContext>> m_remakeJobs;
  QTimer m_bakeTimer;
  Bakery m_bakery{2, [this] { later([this] { m_bakeTimer.start(); }); }};
  /// Says why a job ended before its end.
  JobPool::Trouble m_sayTrouble = [this](const Error& error) {
    later([this, said = error.text()] { emit message(QString::fromStdString(said), true); });
  };
  Autosaver m_autosaver{[this] { later([this] { takeAutosaved(m_autosaver.take()); }); },
                        m_sayTrouble};
  JobPool m_quick{1, m_sayTrouble}; ///< auditions: never behind anything long
  JobPool m_pool{2, m_sayTrouble};  ///< last: ends first, before anything its jobs use
};

} // namespace tuvvo

// Files: what ships, MIDI files in and out, slices for others, every field of hearings, taught
// controllers and a rich project, and patterns and questions as text with words put in their place.
#include "sweeps/drawn_midi.h"
#include "sweeps/fields.h"
#include "sweeps/rich.h"

#include "base/files.h"
#include "base/outputs.h"
#include "crate/query.h"
#include "formats/analysis_json.h"
#include "formats/controllers_json.h"
#include "formats/pattern_text.h"
#include "formats/riff.h"
#include "formats/shipped.h"
#include "formats/slices_out.h"
#include "formats/smf_beat.h"
#include "play/score.h"

#include <QTemporaryDir>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

KeptJson told(const Result<SmfBeat>& read) {
  if (!read.ok()) return read.error().text();
  KeptJson changes = KeptJson::array();
  for (const auto& change : read->tempoChanges)
    changes.push_back({change.at.value, change.tempo.value, change.ramp});
  return {KeptJson::parse(toJson(read->pattern).dump()), read->tempo.value, changes,
          read->warnings};
}

KeptJson numbersOf(const std::string& bytes) {
  KeptJson out = KeptJson::array();
  for (char byte : bytes) out.push_back(int(std::uint8_t(byte)));
  return out;
}

/// Leaves at most three entries in every list.
void shorten(KeptJson& at) {
  if (at.is_array())
    while (at.size() > 3) at.erase(at.size() - 1);
  if (at.is_structured())
    for (auto& one : at) shorten(one);
}

} // namespace

class TestSweepFiles : public QObject {
  Q_OBJECT
  World m_world = madeWorld(8);
  QTemporaryDir m_folder;
  const Project& project() const { return m_world.project; }

private slots:
  void whatShips() {
    Sweep sweep("shipped");
    JobContext job;
    const NewProject fresh = newProject(TUVVO_DATA_DIR, job);
    sweep.tell("new", fresh.project);
    for (const auto& key : fresh.project.keys)
      sweep.tell("key", {key.name, int(key.row), key.column, key.level.value, key.choke, key.gate,
                         key.envelope.release.value});
    sweep.tell("without its drums", KeptJson(newProject(TUVVO_TEST_DIR, job).warnings.size()));
    sweep.tell("demo", *shippedDemo(TUVVO_DATA_DIR, job));
    const auto read = projectFromText(projectToText(richProject(), 0), "rich");
    QVERIFY(read.ok());
    sweep.tell("rich", richProject());
    sweep.tell("rich, read", read->project);
    sweep.compare();
  }

  void midiFiles() {
    Sweep sweep("midi");
    JobContext job;
    const Project fresh = newProject(TUVVO_DATA_DIR, job).project;
    const Key *bass = keyAt(fresh, Row::Floor, 4, 0), *kick = keyAt(fresh, Row::Floor, 0, 0);
    const Id slice = m_world.slices.front();
    for (std::uint64_t seed = 0; seed < 400; ++seed) {
      const Bytes bytes = drawnMidiFile(seed);
      for (const SmfReading& reading : {SmfReading{},
                                        {bass->id, 4},
                                        {bass->id, 3},
                                        {bass->id, 1},
                                        {kick->id, 0},
                                        {kick->id, 8}})
        sweep.tell("read", told(smfBeatFrom(bytes, "drawn", fresh, "drawn", reading)));
      sweep.tell("on slices", told(smfBeatFrom(bytes, "drawn", project(), "drawn", {slice, 4})));
      for (std::size_t cut : {bytes.size() / 2, bytes.size() - 1, std::size_t(13)})
        sweep.tell("cut off", told(smfBeatFrom(std::span(bytes).first(cut), "drawn", fresh, "drawn",
                                               {bass->id, 4})));
      Bytes bad = bytes;
      Random random(seed);
      bad[random.next() % bad.size()] ^= std::uint8_t(1u << (random.next() % 8));
      sweep.tell("damaged", told(smfBeatFrom(bad, "drawn", fresh, "drawn", {bass->id, 4})));
    }
    int files = 0;
    const auto write = [&](const Project& p, const Score& score, bool song) {
      const std::filesystem::path path =
          m_folder.filePath(QString::number(++files) + ".mid").toStdString();
      Outputs outputs;
      const auto written = writeSmf(score, p, song, path, outputs);
      if (!written.ok()) return sweep.tell("written", KeptJson("refused"));
      sweep.tell("written", numbersOf(*readFile(path, 1 << 20)));
    };
    for (Id id : m_world.patterns) write(project(), compilePattern(project(), id), false);
    write(project(), compileSong(project()), true);
    Project moved = project();
    moved.tempoMarks = {{{at(6), Bpm(120), true}, {}}, {{at(12), Bpm(70), false}, {}}};
    write(moved, compileSong(moved), true);
    QVERIFY(sweep.answers() > 1000);
    sweep.compare();
  }

  void slicesForOthers() {
    Sweep sweep("slices-out");
    Project p = project();
    for (std::size_t i = 0; i < m_world.slices.size(); ++i)
      p = withKeyChanged(p, m_world.slices[i], [&](Key& key) {
        key.loop = {i % 2 == 1, 0.25, 0.75, Milliseconds(i == 3 ? 0 : 20)};
        key.level = Decibels(double(i) - 4);
        key.pan = double(i) / 6 - 1;
        key.tune = Semitones(double(i % 4) - 1);
        key.fine = Cents(double(i % 3) * 20 - 20);
        key.highPass = Hertz(i % 4 == 1 ? 200 : 0);
        key.lowPass = Hertz(i % 4 == 2 || i % 8 == 1 ? 4000 : 0);
        key.resonance = Decibels(double(i % 3) * 6);
        key.choke = int(i % 3);
        key.gate = i % 2;
        key.mono = i % 5 == 0;
        key.envelope.attack = Milliseconds(double(i % 3) * 10);
        key.envelope.release = Milliseconds(double(i % 4) * 50);
        key.own.upTo = 1 - 0.25 * double(i % 2);
      });
    p.key = KeyName{10, false};
    for (Id source : {m_world.drums, m_world.chords})
      for (FileFormat format : {FileFormat::Wav, FileFormat::Flac})
        for (bool sounding : {false, true})
          for (bool more : {false, true}) {
            SlicesOut options;
            options.folder =
                m_folder
                    .filePath(
                        QString("%1 %2%3%4").arg(source).arg(int(format)).arg(sounding).arg(more))
                    .toStdString();
            options.format = format;
            options.asTheySound = sounding;
            options.instrument = options.whole = more;
            Outputs outputs;
            JobContext job;
            const auto planned = sliceFiles(p, source, options);
            const auto written = writeSlices(p, source, options, outputs, job);
            QVERIFY2(written.ok(), written.ok() ? "" : written.error().text().c_str());
            KeptJson names = KeptJson::array();
            for (const auto& path : planned) names.push_back(path.filename().string());
            sweep.tell("names", names);
            for (const auto& file : *written) {
              const std::string bytes = *readFile(file.path, 64 << 20);
              const bool text = file.path.extension() == ".sfz";
              KeptJson answer = {file.path.filename().string(), file.key, file.start.value,
                                 file.end.value, text ? bytes : ""};
              if (file.path.extension() == ".wav")
                for (const char* chunk : {"fmt ", "cue ", "smpl", "inst", "LIST"})
                  answer.push_back(numbersOf(chunkOf(bytes, chunk)));
              sweep.tell("file", answer);
            }
          }
    for (double bpm : {0.0, 90.0, 90.5, 91.234})
      for (int key : {-1, 0, 6, 10, 21})
        sweep.tell("tempo and key",
                   KeptJson(tempoAndKeyName(bpm > 0 ? std::optional(Bpm(bpm)) : std::nullopt,
                                            key >= 0 ? std::optional(KeyName{key % 12, key > 11})
                                                     : std::nullopt)));
    sweep.compare();
  }

  void fieldsOfProjects() {
    Sweep sweep("fields");
    changeFields(
        sweep, KeptJson::parse(projectToText(richProject(), 0)), [](const std::string& text) {
          const auto read = projectFromText(text, "a sweep");
          return read.ok() ? KeptJson::parse(projectToText(read->project, 0)) : KeptJson("refused");
        });
    QVERIFY(sweep.answers() > 180 * 4);
    sweep.compare();
  }

  void fieldsOfHearings() {
    Sweep sweep("heard-fields");
    const auto back = [](const std::string& text) {
      const auto read = analysisFromJson(KeptJson::parse(text));
      return read.ok() ? KeptJson::parse(toJson(*read).dump()) : KeptJson(read.error().text());
    };
    changeFields(sweep, toJson(*worldBreak().heard), back);
    for (const char* name : {"lantern row", "pier nine break"}) {
      const auto kept =
          readFile(std::string(TUVVO_DATA_DIR "/demo/") + name + ".heard.json", 1 << 24);
      QVERIFY(kept.ok());
      KeptJson heard = KeptJson::parse(*kept);
      shorten(heard);
      changeFields(sweep, heard, back);
    }
    sweep.compare();
  }

  void fieldsOfControllers() {
    Sweep sweep("controller-fields");
    Controllers taught;
    ControllerSettings& pads = taught["quay pads"];
    pads.layout = NoteLayout::Deck;
    pads.notes = {{41, {Row::Air, 5}}, {42, {Row::Floor, 7}}};
    pads.slides = {{74, "hand.velocity"}, {75, "key.low-pass"}};
    pads.curve = {20, 95, 1.5};
    pads.followClock = true;
    changeFields(sweep, KeptJson::parse(controllersToText(taught)), [](const std::string& text) {
      const auto read = controllersFromText(text, "a sweep");
      return read.ok() ? KeptJson::parse(controllersToText(*read)) : KeptJson(read.error().text());
    });
    sweep.compare();
  }

  /// Each word of a few patterns, with others in its place, and gone.
  void wordsOfPatterns() {
    Sweep sweep("pattern-words");
    for (std::size_t i : {0, 1, 4, 5}) {
      const auto words = QString::fromStdString(
                             patternText(project(), *findPattern(project(), m_world.patterns[i])))
                             .split(' ');
      for (qsizetype at = 0; at < words.size(); at += 1 + at / 40) {
        KeptJson answers = KeptJson::array();
        for (const char* other : {"", "-1", "0", "0.5", "999999999999", "x", "\"", "1.1", "1.4+3/4",
                                  "1.1+1/0", "70", "1.01", "roll", "late"}) {
          QStringList changed = words;
          changed[at] = other;
          const auto read = patternFromText(project(), changed.join(' ').toStdString());
          answers.push_back(
              read.ok() ? KeptJson{KeptJson::parse(toJson(read->pattern).dump()), read->warnings}
                        : KeptJson(read.error().text()));
        }
        sweep.tell("pattern " + std::to_string(i), answers);
      }
    }
    QVERIFY(sweep.answers() > 150);
    sweep.compare();
  }

  /// Any two things that can be asked, together.
  void questionsOfTwo() {
    Sweep sweep("questions");
    std::vector<std::string> words{"85",   "85-90",  "bpm",   "near",  "beat", "exactly", "is",
                                   "not",  "key",    "of",    "c",     "am",   "minor",   "bars",
                                   "2",    "stars",  "clear", "used",  "one",  "fifth",   "chord",
                                   "F#m7", "tagged", "rain",  "\"a b", "0",    "1000 bpm"};
    for (const auto& form : queryForms()) words.emplace_back(form.words);
    for (const auto& one : words) {
      KeptJson answers = KeptJson::array();
      for (const auto& other : words) {
        const Query q = readQuery(one + " " + other);
        answers.push_back(
            {q.words, q.tags, q.kind ? int(*q.kind) : -1, q.tempo ? q.tempo->first.value : 0,
             q.tempo ? q.tempo->second.value : 0, q.tempoOfBeat, q.folded,
             q.key ? q.key->tonic + 12 * int(q.key->minor) : -1, q.keyOfBeat, q.fifths,
             q.bars ? q.bars->first : 0, q.bars ? q.bars->second : 0,
             q.chord ? KeptJson{q.chord->root.value_or(-1), q.chord->ending, q.chord->bars}
                     : KeptJson(),
             q.stars, q.reading});
      }
      sweep.tell("asked", answers);
    }
    sweep.compare();
  }
};

QTEST_APPLESS_MAIN(TestSweepFiles)
#include "tst_sweep_files.moc"

// Scales, chords, degrees, and their spelling, against a general theory library's table.
#include "tones/chord.h"

#include <QFile>
#include <QtTest>
#include <nlohmann/json.hpp>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

nlohmann::json table() {
  QFile file(QStringLiteral(TUVVO_TEST_DIR "/tones/theory.json"));
  if (!file.open(QIODevice::ReadOnly)) qFatal("theory.json is missing");
  return nlohmann::json::parse(file.readAll().toStdString());
}

} // namespace

class TestTheory : public QObject {
  Q_OBJECT
private slots:
  // @tonaljs/tonal 4.10.0 (npm), by tests/tones/theory.mjs

  void scalesAreAsTheLibraryHasThem() {
    int checked = 0;
    const auto all = table();
    for (const auto& row : all["scales"]) {
      const auto scale = scaleOf({row["tonic"], row["minor"]});
      QCOMPARE(std::vector<int>(scale.begin(), scale.end()), row["notes"].get<std::vector<int>>());
      ++checked;
    }
    QCOMPARE(checked, 24);
  }

  void chordsAreAsTheLibraryHasThem() {
    int checked = 0;
    const auto all = table();
    for (const auto& row : all["chords"]) {
      const std::string name = spelt(int(row["root"]), {}) + row["ending"].get<std::string>();
      QCOMPARE(chord(name.c_str()).tones(), row["notes"].get<std::vector<int>>());
      ++checked;
    }
    QCOMPARE(checked, 96);
  }

  void chordsOfAKeyAreAsTheLibraryHasThem() {
    const auto all = table();
    for (const auto& row : all["degrees"]) {
      const KeyName key{row["tonic"], row["minor"]};
      const auto triads = chordsIn(key), sevenths = chordsIn(key, true);
      QCOMPARE(triads.size(), std::size_t(7));
      for (std::size_t i = 0; i < 7; ++i) {
        const auto want = row["sevenths"][i].get<std::vector<int>>();
        QCOMPARE(triads[i].tones(), std::vector<int>(want.begin(), want.begin() + 3));
        // The half diminished chord is none of those that are told apart: its triad stands for it.
        const bool half = triads[i].kind->ending == "dim";
        QCOMPARE(sevenths[i].tones(), half ? triads[i].tones() : want);
      }
    }
  }

  void degreesAreCounted() {
    const auto all = table();
    for (const auto& row : all["romans"]) {
      const std::string roman = row["roman"];
      std::string ending;
      for (const auto& kind : kChordKinds)
        if (roman.ends_with(kind.ending) && kind.ending.size() > ending.size())
          ending = kind.ending;
      const bool small =
          roman.find('i') != std::string::npos || roman.find('v') != std::string::npos;
      if (small) ending = "m" + ending;
      const auto name = spelt(int(row["root"]), {}) + ending;
      QCOMPARE(romanOf(chord(name.c_str()), {0, false}), roman);
    }
    // Natural minor (common practice): A minor's own degrees.
    const KeyName am{9, true};
    QCOMPARE(romanOf(chord("Am"), am), std::string("i"));
    QCOMPARE(romanOf(chord("Bdim"), am), std::string("ii°"));
    QCOMPARE(romanOf(chord("Fmaj7"), am), std::string("VImaj7"));
    QCOMPARE(romanOf(chord("E7"), am), std::string("V7"));
    QCOMPARE(romanOf(chord("Bb"), am), std::string("bII"));
  }

  void notesAreSpeltByTheSignature() {
    const auto all = table();
    for (const auto& row : all["signatures"]) {
      const int tonic = row["tonic"];
      const bool minor = row["minor"];
      const int major = (tonic + (minor ? 3 : 0)) % 12;
      // Six sharps or flats are written either way; the table has Gb, Db and Ab minor, which are
      // F#, C# and G# minor.
      if (major == 6 || (minor && (major == 9 || major == 4 || major == 11))) continue;
      const bool flat = spelt(10, KeyName{tonic, minor}) == "Bb";
      QVERIFY2(flat == row["flats"], qPrintable(QString("%1 %2").arg(tonic).arg(minor)));
    }
    QCOMPARE(spelt(chord("D#maj7"), KeyName{0, true}), std::string("Ebmaj7"));
    QCOMPARE(speltNote(60, {}), std::string("C4"));
    QCOMPARE(speltNote(34, KeyName{5, false}), std::string("Bb1"));
    QCOMPARE(speltNote(0, {}), std::string("C-1"));
    for (const auto& [pitchClass, usual] :
         {std::pair{1, "C#"}, {3, "Eb"}, {6, "F#"}, {8, "Ab"}, {10, "Bb"}})
      QCOMPARE(spelt(pitchClass, {}), std::string(usual));
    // Of the twelve keys of each kind each has its usual name, which is read back as the same key.
    for (const auto& [tonic, minor, name] : {std::tuple{1, false, "Db"},
                                             {3, false, "Eb"},
                                             {6, false, "F#"},
                                             {8, false, "Ab"},
                                             {10, false, "Bb"},
                                             {1, true, "C#m"},
                                             {3, true, "Ebm"},
                                             {6, true, "F#m"},
                                             {8, true, "G#m"},
                                             {10, true, "Bbm"}}) {
      QCOMPARE(nameOf(KeyName{tonic, minor}), std::string(name));
      QVERIFY(keyFromName(name) == (KeyName{tonic, minor}));
      QVERIFY(keyFromName(withSigns(name)) == (KeyName{tonic, minor}));
    }
  }

  void scalesAreWrittenAsTheLibraryWritesThem() {
    QFile file(QStringLiteral(TUVVO_TEST_DIR "/tones/spelling.json"));
    QVERIFY(file.open(QIODevice::ReadOnly));
    const auto all = nlohmann::json::parse(file.readAll().toStdString());
    int checked = 0;
    for (const auto& row : all["scales"]) {
      const KeyName key{row["tonic"], row["minor"]};
      QCOMPARE(nameOf(key), row["name"].get<std::string>() + (key.minor ? "m" : ""));
      const auto scale = scaleOf(key);
      for (std::size_t i = 0; i < scale.size(); ++i) {
        QCOMPARE(spelt(scale[i], key), row["scale"][i].get<std::string>());
        ++checked;
      }
    }
    QCOMPARE(checked, 24 * 7);
    // B3 under middle C is the flat of that C; what is written is read as the same note.
    QCOMPARE(speltNote(59, KeyName{3, true}), std::string("Cb4"));
    QCOMPARE(speltNote(65, KeyName{6, false}), std::string("E#4"));
    QCOMPARE(keyFromName("Cb")->tonic, 11);
    QCOMPARE(keyFromName("E#")->tonic, 5);
    QCOMPARE(withSigns("Cb4"), std::string("C\u266D4"));
  }

  void signsStandWhereARootHasThem() {
    QCOMPARE(withSigns("2.2 Abmaj7"), std::string("2.2 A\u266Dmaj7"));
    QCOMPARE(withSigns("F#m · Bb · C#2"), std::string("F\u266Fm · B\u266D · C\u266F2"));
    for (const char* word : {"Abba", "Bbq", "about Ebbing", "Crab", "#1", "bb", "CABb"})
      QCOMPARE(withSigns(word), std::string(word));
    for (const char* name : {"2.2 Abmaj7", "F#m", "Gb", "C#2"})
      QCOMPARE(withoutSigns(withSigns(name)), std::string(name));
    QCOMPARE(respelt("G#maj7", KeyName{0, true}), std::string("Abmaj7"));
    QCOMPARE(respelt("A#m7", KeyName{11, false}), std::string("A#m7"));
    QCOMPARE(respelt("no chord", KeyName{0, true}), std::string("no chord"));
  }

  void inversionsStandOnTheirTones() {
    // Close position of C major and G7, counted by hand.
    QCOMPARE(voiced(chord("C"), 0, 60), (std::vector<int>{60, 64, 67}));
    QCOMPARE(voiced(chord("C"), 1, 60), (std::vector<int>{64, 67, 72}));
    QCOMPARE(voiced(chord("C"), 2, 60), (std::vector<int>{67, 72, 76}));
    QCOMPARE(voiced(chord("C"), 3, 60), voiced(chord("C"), 0, 60)); // a triad has three
    QCOMPARE(voiced(chord("G7"), 3, 60), (std::vector<int>{65, 67, 71, 74}));
    for (int root = 0; root < 12; ++root)
      for (const auto& kind : kChordKinds)
        for (int inversion = 0; inversion < 4; ++inversion)
          for (int lowest : {30, 52, 61}) {
            const ChordName name{root, &kind};
            const auto notes = voiced(name, inversion, lowest);
            QVERIFY(notes.front() >= lowest && notes.front() < lowest + 12);
            QVERIFY(notes.back() - notes.front() < 12);
            QVERIFY(std::is_sorted(notes.begin(), notes.end()));
            for (int note : notes) QVERIFY(hasTone(name, note));
          }
    QCOMPARE(nearestTone(chord("C"), 61), 60);
    QCOMPARE(nearestTone(chord("C"), 66), 67);
    QCOMPARE(nearestTone(chord("C"), 62), 60); // of two as near the lower
  }
};

QTEST_MAIN(TestTheory)
#include "tst_theory.moc"

#include "words/fault_words.h"
#include "words/figure_text.h"
#include "words/fit_words.h"
#include "words/note_words.h"
#include "words/timing_words.h"

#include <QtTest>

using namespace tuvvo;

Q_DECLARE_METATYPE(tuvvo::Finding)

class TestWords : public QObject {
  Q_OBJECT

private slots:
  void figuresHaveMinusSigns() {
    QCOMPARE(figureText("%+.1f ct", -3.25), std::string("\u22123.2 ct"));
    QCOMPARE(figureText("%+.0f ct", 3.0), std::string("+3 ct"));
    QCOMPARE(figureText("re-spaced, two-4: %.0f to %.0f", -2.0, 4.0),
             std::string("re-spaced, two\u22124: \u22122 to 4"));
    QCOMPARE(withMinusSigns("2020-11-30"), std::string("2020-11-30")); // a date stays one
    QCOMPARE(withMinusSigns("-"), std::string("-"));
    QCOMPARE(withMinusSigns(""), std::string());
  }

  // ---- notes ----

  void everyNoteSpeaks_data() {
    QTest::addColumn<Finding>("found");
    QTest::addColumn<QString>("figure");
    QTest::addColumn<QString>("inReason");
    QTest::addColumn<QString>("action");
    const auto row = [](const char* name, Finding found, const char* figure, const char* reason,
                        const char* action) {
      QTest::newRow(name) << std::move(found) << QString(figure) << QString(reason)
                          << QString(action);
    };
    row("levels", finding::LevelsApart{"quay", SliceJob::Tones, 6.23, "2", "5"}, "6.2 LU apart",
        "In quay, cut 2 is the loudest and cut 5 the quietest.", "Match levels");
    row("drums", finding::LevelsApart{"quay", SliceJob::Snare, 7.06, "2.1", "4.1"}, "+7.1 LU",
        "In quay, the snare of 2.1 stands out over the usual one, 4.1.", "Bring it down");
    row("tempo", finding::TempoOfWholeBars{"quay", 4.06, Bpm(101.5), Bpm(100)}, "4.06 bars",
        "quay is not a whole number of bars at 101.50 BPM; at 100.00 it is.",
        "Hear it at 100.00 BPM");
    row("bars", finding::EndsOffBars{"quay", 4.5, 4}, "4.50 bars", "quay does not end on a bar",
        "Cut 4 whole bars");
    row("one bar", finding::EndsOffBars{"quay", 1.5, 1}, "1.50 bars", "quay", "Cut 1 whole bar");
    row("attacks", finding::CutsInAttacks{"quay", 3}, "3 cuts in attacks", "In quay, they begin",
        "Cut before the attack");
    row("one attack", finding::CutsInAttacks{"quay", 1}, "1 cut in an attack", "quay",
        "Cut before the attack");
    row("edges", finding::EdgesClick{"quay", 2}, "2 edges click", "In quay, slices",
        "Fade the edges");
    row("dead air", finding::DeadAir{"quay", 1, Milliseconds(61.4)}, "61 ms of dead air",
        "In quay, 1 slice waits before", "Start at the sound");
    row("stretch", finding::HeardStretch{"quay", -18, FitMethod::Repitch}, "\u221218 % of length",
        "repitching would leave its attacks", "Repitch it");
    row("stretch to hits", finding::HeardStretch{"quay", 30, FitMethod::Respace}, "+30 % of length",
        "re-spacing would leave its attacks", "Re-space it");
    row("wobble", finding::HeardWobble{"quay", 9}, "+9 % of length", "heard as a wobble",
        "Half as straight, nothing held");
    row("order", finding::OldOrder{"quay", "night", 0.08}, "0.08 new",
        "In night, slices of quay come nearly", "Reorder the slices");
    row("rub", finding::KickRubs{"night", "kick", "bass", 1.04, 0.62, Hertz(54.5), "G#1"},
        "1.0 semitones apart",
        "In night, kick and bass sound together for 62 % of the kick's ring and rub at A1 \u221216 "
        "ct against "
        "G#1.",
        "Tune the kick");
    row("lows", finding::LowsTogether{"night", "kick", "bass", 0.5}, "50 % together",
        "In night, kick and bass share the low end", "Duck the bass");
    row("ring", finding::KickRingsOn{"kick", 1.53, 0.75}, "rings 1.5 beats",
        "kick still rings when it comes again after 0.75 beats.", "Shorten the kick");
    row("phases", finding::LayersCancelLows{"kick", "low", "knock", 5.23, true, {}, {}},
        "5.2 dB of its lows gone", "In kick, low and knock work against each other below 250 Hz.",
        "Invert knock");
    row("phases in time",
        finding::LayersCancelLows{"kick", "low", "low", 3, false, "low", Milliseconds(4.25)},
        "3.0 dB of its lows gone", "In kick, low and its copy work against each other",
        "Delay low by 4.2 ms");
    row("same", finding::BarsTheSame{"crossing", "night", 8}, "8 bars the same",
        "crossing plays night without", "Change its last bar");
    row("rights", finding::NoPermission{"quay", true, true, Seconds(8.04)}, "8.0 s unrecorded",
        "quay is heard in the song and no permission is recorded. There is no safe number",
        "Open its record");
    row("rights of one", finding::NoPermission{"quay", true, false, Seconds(1)}, "1.0 s unrecorded",
        "no permission for the recording is recorded", "Open its record");
    row("rights of the other", finding::NoPermission{"quay", false, true, Seconds(2.26)},
        "2.3 s unrecorded", "no permission for the composition is recorded", "Open its record");
  }
  void everyNoteSpeaks() {
    QFETCH(Finding, found);
    QFETCH(QString, figure);
    QFETCH(QString, inReason);
    QFETCH(QString, action);
    const NoteWords words = wordsOf(found);
    QCOMPARE(QString::fromStdString(words.figure), figure);
    QVERIFY2(words.reason.find(inReason.toStdString()) != std::string::npos, words.reason.c_str());
    QVERIFY(words.reason.ends_with('.'));
    QCOMPARE(QString::fromStdString(words.action), action);
  }

  // ---- faults of a recording ----

  void faultsAreTold_data() {
    QTest::addColumn<QString>("kind");
    QTest::addColumn<double>("figure");
    QTest::addColumn<double>("second");
    QTest::addColumn<QString>("begins");
    QTest::newRow("silence") << "silence" << 0.0 << 0.0 << "There is nothing but silence";
    QTest::newRow("offset") << "dc offset" << -0.0123 << 0.0
                            << "The middle of the wave stands 1.2 % off zero;";
    QTest::newRow("clipping") << "clipping" << 17.0 << 0.0 << "Up to 17 samples in a row";
    QTest::newRow("front") << "silence at the front" << 133.8 << 0.0
                           << "It begins with 134 ms of silence;";
    QTest::newRow("left") << "one-sided" << 30.0 << 0.0 << "Nearly all of it is on the left;";
    QTest::newRow("right") << "one-sided" << -30.0 << 0.0 << "Nearly all of it is on the right;";
    QTest::newRow("inverted") << "inverted" << -0.9 << 0.0 << "Left and right are turned against";
    QTest::newRow("hum") << "hum" << 50.0 << -41.7
                         << "Mains hum at 50 Hz, \u221242 dBFS; a narrow cut";
    QTest::newRow("hum of an older file")
        << "hum" << 60.0 << 0.0 << "Mains hum at 60 Hz; a narrow cut";
    QTest::newRow("dead air") << "dead air" << 3.04 << 12.5 << "3.0 s of dead air from 12.5 s on.";
    QTest::newRow("dead air of an older file") << "dead air" << 3.04 << 0.0 << "3.0 s of dead air.";
    QTest::newRow("wow") << "wow" << 18.2 << 0.55
                         << "The speed wavers by \u00b118 ct, 0.55 times a second, as a disc";
    QTest::newRow("drift") << "speed drift" << -21.0 << 0.0 << "It ends 21 ct lower than";
    QTest::newRow("a newer kind") << "tape splice" << 1.0 << 0.0
                                  << "This was found in it: tape splice.";
  }
  void faultsAreTold() {
    QFETCH(QString, kind);
    QFETCH(double, figure);
    QFETCH(double, second);
    QFETCH(QString, begins);
    const auto said =
        QString::fromStdString(sentenceOf(FaultHeard{kind.toStdString(), figure, second}));
    QVERIFY2(said.startsWith(begins) && said.endsWith('.'), qPrintable(said));
  }

  // ---- fitting ----

  void aFitSaysWhatIsHeard() {
    FitRow row;
    QCOMPARE(soundOf(row), std::string("as it is"));
    row.semitones = Semitones(-1);
    QCOMPARE(soundOf(row), std::string("darker and slower, hardly coloured"));
    row.semitones = Semitones(3);
    row.centsOff = -12.4;
    row.keyDistance = 2;
    QCOMPARE(soundOf(row), std::string("brighter and faster, coloured; \u221212 ct off; keys "
                                       "disagree"));
    row.centsOff = 4.9; // not heard
    row.keyDistance = 1;
    row.semitones = Semitones(-6);
    row.bpmErrorPercent = 1;
    row.resultBpm = Bpm(88.2);
    QCOMPARE(soundOf(row), std::string("darker and slower, strongly coloured; the beat would move "
                                       "to 88.20 BPM"));
    FitRow stretch;
    stretch.method = FitMethod::Stretch;
    for (const auto& [percent, words] : {std::pair{-2.9, "stretching not heard"},
                                         {3.1, "attacks a little softer"},
                                         {-10.1, "attacks softened"},
                                         {25.1, "stretching plainly heard"}}) {
      stretch.stretchPercent = percent;
      QCOMPARE(soundOf(stretch), std::string(words));
    }
    FitRow respace;
    respace.method = FitMethod::Respace;
    QCOMPARE(soundOf(respace), std::string("slices end to end"));
    respace.gap = Milliseconds(40);
    QCOMPARE(soundOf(respace), std::string("gaps of 40 ms after the slices"));
    respace.gap = Milliseconds(-30);
    respace.semitones = Semitones(2);
    QCOMPARE(soundOf(respace), std::string("slices cut 30 ms short, coloured"));
  }

  // ---- timing ----

  void aTakeIsToldInOneSentence() {
    Project project;
    const Id part = 7;
    project.parts.emplace_back();
    project.parts.back().id = part;
    project.parts.back().name = "hats";
    TimingPicture picture;
    QCOMPARE(sentenceOf(project, picture), std::string());
    picture.verdict = TimingVerdict::TooFew;
    QCOMPARE(sentenceOf(project, picture), std::string("Too few hits to say how even they are."));
    picture.verdict = TimingVerdict::Steady;
    picture.all.spread = Milliseconds(4);
    QCOMPARE(sentenceOf(project, picture),
             std::string("In time with the feel, and played evenly, within 4 ms."));
    picture.all.spread = Milliseconds(20);
    QCOMPARE(sentenceOf(project, picture),
             std::string("In time with the feel, and played loosely, 20 ms apart."));
    picture.verdict = TimingVerdict::Trend;
    picture.all.trend = Milliseconds(3);
    QCOMPARE(sentenceOf(project, picture),
             std::string("The take drags: 3 ms later with every bar."));
    picture.all.trend = Milliseconds(-3);
    QCOMPARE(sentenceOf(project, picture),
             std::string("The take rushes: 3 ms earlier with every bar."));
    picture.verdict = TimingVerdict::PartOff;
    picture.all.spread = Milliseconds(8);
    picture.parts.resize(1);
    picture.parts[0].part = part;
    picture.parts[0].feel.mean = Milliseconds(-15);
    picture.odd = 0;
    QCOMPARE(sentenceOf(project, picture),
             std::string("hats lies 15 ms early against its feel; all in all it was played evenly, "
                         "within 8 ms."));
    picture.parts[0].part = part + 1000; // one that was taken away since
    picture.parts[0].feel.mean = Milliseconds(15);
    QVERIFY(sentenceOf(project, picture).starts_with("One part lies 15 ms late against its feel;"));
  }
};

QTEST_APPLESS_MAIN(TestWords)
#include "tst_words.moc"

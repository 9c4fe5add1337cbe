// Figures as people write them.
#include "listen/spelling.h"
#include "model/typed.h"

#include <QtTest>
#include <cmath>

using namespace tuvvo;

class TestTyped : public QObject {
  Q_OBJECT
private slots:
  void figuresAreReadAsTheyAreWritten_data() {
    QTest::addColumn<int>("unit");
    QTest::addColumn<QString>("text");
    QTest::addColumn<double>("value");
    const auto row = [](Unit unit, const char* text, double value) {
      QTest::newRow(QByteArray(text) + ' ' + QByteArray::number(int(unit)))
          << int(unit) << QString::fromUtf8(text) << value;
    };
    row(Unit::Semitones, "-3st", -3);
    row(Unit::Semitones, "\u22123 st", -3);
    row(Unit::Semitones, "\u20133", -3);
    row(Unit::Semitones, "50 ct", 0.5);
    row(Unit::Semitones, "1 oct", 12);
    row(Unit::Decibels, "+2 dB", 2);
    row(Unit::Decibels, "+2", 2);
    row(Unit::Decibels, "-6,5db", -6.5);
    row(Unit::None, "92,5", 92.5);
    row(Unit::None, "92.5 BPM", 92.5);
    row(Unit::None, " 7 ", 7);
    row(Unit::Hertz, "440", 440);
    row(Unit::Hertz, "1.2k", 1200);
    row(Unit::Hertz, "1,2 kHz", 1200);
    row(Unit::Hertz, "A4", 440);
    row(Unit::Hertz, "a3", 220);
    row(Unit::Milliseconds, "2 s", 2000);
    row(Unit::Milliseconds, "250ms", 250);
    row(Unit::Seconds, "250 ms", 0.25);
    row(Unit::Cents, "1 st", 100);
    row(Unit::Percent, "40 %", 40);
    row(Unit::Percent, ".5", 0.5);
    row(Unit::Beats, "1/8", 0.5);
    row(Unit::Beats, "1/8d", 0.75);
    row(Unit::Beats, "1/8.", 0.75);
    row(Unit::Beats, "1/4t", 2.0 / 3);
    row(Unit::Beats, "3/16", 0.75);
    row(Unit::Beats, "1.5 beats", 1.5);
    row(Unit::Ticks, "1/16", 240);
    row(Unit::Milliseconds, "1/8d", 375); // at 120 BPM
    row(Unit::Seconds, "1/2", 1);
  }
  void figuresAreReadAsTheyAreWritten() {
    QFETCH(int, unit);
    QFETCH(QString, text);
    QFETCH(double, value);
    const auto read = typed(text.toStdString(), Unit(unit), Bpm(120));
    QVERIFY2(read, qPrintable(text));
    QVERIFY2(std::abs(*read - value) < 1e-9, qPrintable(QString::number(*read)));
  }

  void whatIsNoFigureIsNone() {
    for (const char* text : {"", " ", "loud", "3 Hz", "1/0", "1/", "/8", "1/8dd", "--3", "1e400",
                             "nan", "inf", "0x10", "3 st st", "3,4,5"})
      QVERIFY2(!typed(text, Unit::Decibels), text);
    QVERIFY(!typed("1/8", Unit::Milliseconds)); // without a tempo
    QVERIFY(!typed("1/8", Unit::Decibels, Bpm(120)));
    QVERIFY(!typed("Eb3", Unit::Decibels));
    QVERIFY(!typed("440 ms", Unit::Hertz));
  }

  void whatIsWrittenIsReadAgain() {
    for (Unit unit : {Unit::None, Unit::Decibels, Unit::Hertz, Unit::Milliseconds, Unit::Seconds,
                      Unit::Semitones, Unit::Cents, Unit::Octaves, Unit::Beats, Unit::Ticks,
                      Unit::Bars, Unit::Percent})
      for (double value : {-36.25, -1.0, 0.0, 0.5, 12.0, 440.0}) {
        const Parameter parameter{"x", "X", unit, -1000, 1000, 0, 0.01, 2, Taper::Even, {}};
        const auto read = typed(written(parameter, value), unit);
        QVERIFY(read);
        QVERIFY(std::abs(*read - value) < 0.006);
      }
  }

  void notesAreReadByTheirNames() {
    QCOMPARE(*noteFromName("C4"), 60);
    QCOMPARE(*noteFromName("Eb3"), 51);
    QCOMPARE(*noteFromName("d#3"), 51);
    QCOMPARE(*noteFromName("E\u266D3"), 51);
    QCOMPARE(*noteFromName("Cb4"), 59);
    QCOMPARE(*noteFromName("B#3"), 60);
    QCOMPARE(*noteFromName("C-1"), 0);
    QCOMPARE(*noteFromName("G9"), 127);
    for (const char* no : {"", "C", "H3", "C10", "C-2", "Eb3x", "3", "A9", "Cb-1"})
      QVERIFY2(!noteFromName(no), no);
    for (int note = 0; note < 128; ++note)
      for (const auto& key : {std::optional<KeyName>{}, std::optional(KeyName{6, false}),
                              std::optional(KeyName{3, true})})
        QCOMPARE(*noteFromName(speltNote(note, key)), note);
  }
};

QTEST_GUILESS_MAIN(TestTyped)
#include "tst_typed.moc"

// Figures from files are brought into a range before anything is made of them: which, for each.
#include "formats/kinds_of_files.h"

#include <QtTest>
#include <set>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

constexpr Range kHearingRanges[] = {
    {"/durationS", 0, 1e6},
    {"/sampleRate", 8000, 192'000},
    {"/channels", 1, 2},
    {"/kind/confidence", 0, 1},
    {"/tempo/bpm", 10, 1000},
    {"/tempo/confidence", 0, 1},
    {"/tempo/driftMs", 0, 1e6},
    {"/tempo/curve/0", 0, 10},
    {"/tempo/alternatives/0/bpm", 10, 1000},
    {"/wow/rateHz", 0, 100},
    {"/wow/depthCents", 0, 1200},
    {"/root/hz", 0, 100'000},
    {"/meter", 2, 7},
    {"/beatsS/0", 0, 1e6},
    {"/downbeatsS/0", 0, 1e6},
    {"/loop/bars", 1, 1024},
    {"/key/confidence", 0, 1},
    {"/key/tuningCents", -50, 50},
    {"/chords/0/startS", 0, 1e6},
    {"/chords/0/endS", 0, 1e6},
    {"/chords/0/confidence", 0, 1},
    {"/onsets/0/atS", 0, 1e6},
    {"/onsets/0/cutS", 0, 1e6},
    {"/onsets/0/sure/0", 0, 1},
    {"/onsets/0/sure/3", 0, 1},
    {"/onsets/0/level", -200, 100},
    {"/onsets/0/levels/0", -200, 100},
    {"/onsets/0/levels/3", -200, 100},
    {"/onsets/0/brightnessHz", 0, 100'000},
    {"/onsets/0/decayMs", 0, 1e6},
    {"/onsets/0/ringHz", 0, 100'000},
    {"/onsets/0/group", 0, 100'000},
    {"/sections/0/startS", 0, 1e6},
    {"/sections/0/endS", 0, 1e6},
    {"/sections/0/content/levelDb", -300, 300},
    {"/sections/0/content/onsets", 0, 1e4},
    {"/sections/0/content/drums", 0, 1e4},
    {"/sections/0/content/lows", 0, 1},
    {"/sections/0/content/voices", 0, 1},
    {"/sections/0/content/tones", 0, 1},
    {"/sections/0/content/changes", 0, 1},
    {"/content/levelDb", -300, 300},
    {"/content/onsets", 0, 1e4},
    {"/content/drums", 0, 1e4},
    {"/content/lows", 0, 1},
    {"/content/voices", 0, 1},
    {"/content/tones", 0, 1},
    {"/content/changes", 0, 1},
    {"/loudness/integratedLufs", -1000, 1000},
    {"/loudness/truePeakDbtp", -1000, 1000},
    {"/loudness/samplePeakDbfs", -1000, 1000},
    {"/loudness/rangeLu", 0, 200},
    {"/loudness/shortTermLufs", -1000, 1000},
    {"/loudness/noiseFloorDbfs", -1000, 1000},
    {"/faults/0/figure", -1e9, 1e9},
    {"/faults/0/second", -1e9, 1e9},
};

/// A figure of a file that is read and written again; what stands for it where it is left out.
double figureAgain(const Kind& kind, const Range& range, const Json& figure) {
  Json json = Json::parse(kind.text);
  json.at(Pointer(range.place)) = figure;
  const Json now = kind.again(json);
  return now.contains(Pointer(range.place)) ? now.at(Pointer(range.place)).get<double>()
                                            : range.standard;
}

/// Where figures stand in a file.
void figuresIn(const Json& json, const std::string& at, std::set<std::string>& out) {
  if (json.is_number()) out.insert(at);
  if (json.is_structured())
    for (const auto& [name, value] : json.items()) figuresIn(value, at + "/" + name, out);
}

/// What a figure of a hearing becomes, once it was read and is written again.
Json hearingWith(const char* place, const Json& figure) {
  Json json = hearing();
  json.at(Pointer(place)) = figure;
  const auto read = analysisFromJson(json);
  if (!read) return {};
  const Json now = toJson(*read);
  return now.contains(Pointer(place)) ? now.at(Pointer(place)) : Json(0.0); // no root: 0 Hz
}

} // namespace

class TestRanges : public QObject {
  Q_OBJECT

private slots:
  void hearings_data() {
    QTest::addColumn<double>("least");
    QTest::addColumn<double>("most");
    for (const Range& range : kHearingRanges)
      QTest::newRow(range.place) << range.least << range.most;
  }
  void hearings() {
    QFETCH(double, least);
    QFETCH(double, most);
    const char* place = QTest::currentDataTag();
    for (const auto& [given, kept] :
         {std::pair{-1e300, least}, {least, least}, {most, most}, {1e300, most}}) {
      const Json now = hearingWith(place, given);
      QVERIFY2(now.is_number() && now.get<double>() == kept,
               qPrintable(QString("%1 became %2").arg(given).arg(now.dump().c_str())));
    }
    // As it is in between, and not at all where it is no figure.
    const double between = std::floor((least + most) / 2);
    QCOMPARE(hearingWith(place, between).get<double>(), between);
  }

  void projects_data() {
    QTest::addColumn<int>("kind");
    QTest::addColumn<int>("range");
    for (std::size_t k = 0; k < kindsOfProjects().size(); ++k)
      for (std::size_t r = 0; r < kindsOfProjects()[k].ranges.size(); ++r) {
        const Kind& kind = kindsOfProjects()[k];
        QTest::addRow("%s%s", kind.name, kind.ranges[r].place) << int(k) << int(r);
      }
  }
  void projects() {
    QFETCH(int, kind);
    QFETCH(int, range);
    const Kind& of = kindsOfProjects()[std::size_t(kind)];
    const Range& in = of.ranges[std::size_t(range)];
    QCOMPARE(figureAgain(of, in, in.least), in.least);
    QCOMPARE(figureAgain(of, in, in.most), in.most);
    QCOMPARE(figureAgain(of, in, -1e12), in.least);
    QCOMPARE(figureAgain(of, in, 1e12), in.most);
    // Where it is not said, or is no figure, the standard stands.
    if (in.standard == kMissing) return;
    QCOMPARE(figureAgain(of, in, nullptr), in.standard);
    QCOMPARE(figureAgain(of, in, "loud"), in.standard);
  }

  // What stands at its standard is left out of files; what stands beside it is not.
  void whatIsNearlyStandardIsKept_data() { projects_data(); }
  void whatIsNearlyStandardIsKept() {
    QFETCH(int, kind);
    QFETCH(int, range);
    const Kind& of = kindsOfProjects()[std::size_t(kind)];
    const Range& in = of.ranges[std::size_t(range)];
    const double between = in.least + 0.371932187 * (in.most - in.least);
    const double kept = figureAgain(of, in, between);
    if (in.standard == kMissing || kept != between || between == std::floor(between))
      QSKIP("a whole number");
    for (const double end : {in.least, in.most}) {
      const double away = 0.01 * (end - in.standard);
      double near = in.standard + std::clamp(away, -0.3, 0.3);
      if (std::string_view(in.place).ends_with("PassHz") && near > 0) near = 20.3; // off below 20
      QCOMPARE(figureAgain(of, in, near), near);
    }
  }

  void everyFigureOfAHearingHasItsRange() {
    std::set<std::string> there, inTable;
    figuresIn(toJson(*analysisFromJson(hearing())), "", there);
    // Others of a list are read as their neighbours are.
    std::erase_if(there, [](const std::string& place) {
      return (place.starts_with("/tempo/curve/") && place != "/tempo/curve/0") ||
             place == "/onsets/0/sure/1" || place == "/onsets/0/sure/2" ||
             place == "/onsets/0/levels/1" || place == "/onsets/0/levels/2";
    });
    for (const Range& range : kHearingRanges) inTable.insert(range.place);
    QVERIFY(there == inTable);
  }

  void whatAHearingDoesNotSayIsOrdinary() {
    const auto read = analysisFromJson(Json::object());
    QVERIFY(read.ok());
    Analysis ordinary;
    ordinary.rate = Hertz(48000);
    ordinary.channels = 1;
    QVERIFY(*read == ordinary);
    const auto bare =
        analysisFromJson(Json::parse(R"({"tempo": {}, "wow": {}, "loop": {}, "key": {}, "kind": {},
                        "onsets": [{}], "chords": [{}], "sections": [{}], "faults": [{}]})"));
    QVERIFY(bare.ok());
    QCOMPARE(bare->tempo->bpm.value, 120.0);
    QCOMPARE(bare->loop->bars, 1);
    QCOMPARE(nameOf(bare->key->name), std::string("C"));
    QVERIFY(bare->onsets[0] == Onset{});
    QVERIFY(bare->sections[0] == SectionHeard{} && bare->faults[0] == FaultHeard{});
  }
};

QTEST_APPLESS_MAIN(TestRanges)
#include "tst_ranges.moc"

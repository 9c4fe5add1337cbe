// MIDI messages, clock, velocity curves and the percussion map, by the published standard.
#include "base/files.h"
#include "base/random.h"
#include "formats/controllers_json.h"
#include "formats/smf_notes.h"
#include "midi/clock.h"
#include "midi/message.h"
#include "midi/percussion.h"
#include "midi/velocity_curve.h"

#include <QFile>
#include <QTemporaryDir>
#include <QTest>

using namespace tuvvo;

namespace {

std::vector<MidiMessage> parsed(const std::vector<int>& bytes) {
  MidiParser parser;
  std::vector<MidiMessage> out;
  for (int byte : bytes)
    if (const auto message = parser.feed(std::uint8_t(byte))) out.push_back(*message);
  return out;
}
using Messages = std::vector<MidiMessage>;
using Kind = MidiKind;

} // namespace

class TestMidi : public QObject {
  Q_OBJECT
  QTemporaryDir m_dir;

  std::filesystem::path write(const std::vector<std::uint8_t>& bytes) {
    const QString path = m_dir.filePath("file.mid");
    QFile file(path);
    (void)file.open(QIODevice::WriteOnly);
    file.write(reinterpret_cast<const char*>(bytes.data()), qint64(bytes.size()));
    return path.toStdString();
  }

private slots:
  // Status bytes and their data from table I of the MIDI 1.0 Detailed Specification 4.2.
  void channelMessages() {
    QVERIFY(parsed({0x90, 60, 100}) == Messages({{Kind::NoteOn, 0, 60, 100}}));
    QVERIFY(parsed({0x83, 60, 64}) == Messages({{Kind::NoteOff, 3, 60, 64}}));
    QVERIFY(parsed({0xa1, 60, 12}) == Messages({{Kind::KeyPressure, 1, 60, 12}}));
    QVERIFY(parsed({0xbf, 7, 127}) == Messages({{Kind::Control, 15, 7, 127}}));
    QVERIFY(parsed({0xc2, 5}) == Messages({{Kind::Program, 2, 5, 0}}));
    QVERIFY(parsed({0xd0, 99}) == Messages({{Kind::ChannelPressure, 0, 0, 99}}));
    // Pitch bend: least significant byte first; 0x2000 is the centre.
    QVERIFY(parsed({0xe0, 0x00, 0x40}) == Messages({{Kind::Bend, 0, 0, 0x2000}}));
    QVERIFY(parsed({0xe0, 0x7f, 0x7f}) == Messages({{Kind::Bend, 0, 0, 16383}}));
  }

  // "A receiver must be capable of recognizing either method of turning off a note": velocity 0.
  void noteOnWithVelocityZeroIsOff() {
    QVERIFY(parsed({0x90, 60, 0}) == Messages({{Kind::NoteOff, 0, 60, 0}}));
  }

  void runningStatus() {
    QVERIFY(parsed({0x90, 60, 100, 62, 90, 60, 0}) == Messages({{Kind::NoteOn, 0, 60, 100},
                                                                {Kind::NoteOn, 0, 62, 90},
                                                                {Kind::NoteOff, 0, 60, 0}}));
    QVERIFY(parsed({0xd1, 10, 20, 30}) == Messages({{Kind::ChannelPressure, 1, 0, 10},
                                                    {Kind::ChannelPressure, 1, 0, 20},
                                                    {Kind::ChannelPressure, 1, 0, 30}}));
  }

  // Real-time messages may come between any two bytes and do not touch running status; system
  // common ones clear it.
  void realTimeInBetween() {
    QVERIFY(
        parsed({0x90, 0xf8, 60, 0xfe, 100, 0xf8, 62, 90}) ==
        Messages(
            {{Kind::Clock}, {Kind::NoteOn, 0, 60, 100}, {Kind::Clock}, {Kind::NoteOn, 0, 62, 90}}));
    QVERIFY(parsed({0xfa, 0xfb, 0xfc}) ==
            Messages({{Kind::Start}, {Kind::Continue}, {Kind::Stop}}));
    QVERIFY(parsed({0x90, 60, 100, 0xf6, 62, 90}) == Messages({{Kind::NoteOn, 0, 60, 100}}));
    QVERIFY(parsed({0x90, 60, 100, 0xf3, 1, 62, 90}) == Messages({{Kind::NoteOn, 0, 60, 100}}));
    QVERIFY(parsed({0x90, 60, 100, 0xf2, 1, 2, 62, 90}) == Messages({{Kind::NoteOn, 0, 60, 100}}));
  }

  void exclusiveIsPassedOver() {
    QVERIFY(parsed({0xf0, 0x7e, 0x7f, 6, 1, 0xf7, 0x90, 60, 100}) ==
            Messages({{Kind::NoteOn, 0, 60, 100}}));
    // Unfinished: any status byte ends it; a clock in the middle is heard.
    QVERIFY(parsed({0xf0, 1, 2, 0xf8, 3, 0x91, 60, 100}) ==
            Messages({{Kind::Clock}, {Kind::NoteOn, 1, 60, 100}}));
    QVERIFY(parsed({0xf0, 60, 100, 0xf7, 60, 100}).empty());
  }

  void nonsenseIsSurvived() {
    QVERIFY(parsed({1, 2, 3, 60, 100}).empty());             // data without a status
    QVERIFY(parsed({0xf4, 1, 0xf5, 2, 0xf9, 0xfd}).empty()); // undefined
    QVERIFY(parsed({0x90, 60, 0x90, 62, 100}) == Messages({{Kind::NoteOn, 0, 62, 100}}));
    Random random(3);
    MidiParser parser;
    for (int i = 0; i < 200'000; ++i)
      if (const auto m = parser.feed(std::uint8_t(random.next()))) {
        QVERIFY(m->channel >= 0 && m->channel < 16 && m->number >= 0 && m->number < 128);
        QVERIFY(m->value >= 0 && m->value < (m->kind == Kind::Bend ? 16384 : 128));
      }
  }

  void wholeMessages() {
    const auto of = [](std::vector<std::uint8_t> bytes) { return messageOf(bytes); };
    QVERIFY(*of({0x90, 60, 100}) == (MidiMessage{Kind::NoteOn, 0, 60, 100}));
    QVERIFY(*of({0xf8}) == MidiMessage{Kind::Clock});
    for (const auto& bad : std::vector<std::vector<std::uint8_t>>{{},
                                                                  {60},
                                                                  {0x90},
                                                                  {0x90, 60},
                                                                  {0x90, 60, 200},
                                                                  {0x90, 200, 1},
                                                                  {0x90, 1, 2, 3},
                                                                  {0xc0, 1, 2},
                                                                  {0xf8, 1},
                                                                  {0xf0, 1, 0xf7},
                                                                  {0xfe},
                                                                  {0xff}})
      QVERIFY(!of(bad));
  }

  void whatIsSentIsRead() {
    for (const auto& message : Messages{{Kind::NoteOn, 9, 36, 127},
                                        {Kind::NoteOff, 9, 36, 0},
                                        {Kind::KeyPressure, 1, 2, 3},
                                        {Kind::Control, 2, 64, 127},
                                        {Kind::Program, 3, 4, 0},
                                        {Kind::ChannelPressure, 4, 0, 5},
                                        {Kind::Bend, 5, 0, 12345},
                                        {Kind::Clock},
                                        {Kind::Start},
                                        {Kind::Continue},
                                        {Kind::Stop}}) {
      std::array<std::uint8_t, 3> bytes{};
      const int count = bytesOf(message, bytes);
      QVERIFY(*messageOf({bytes.data(), std::size_t(count)}) == message);
    }
  }

  // ---- clock ----

  void theClocksTempoIsFollowed() {
    Random random(8);
    for (double bpm : {62.0, 85.0, 120.0, 174.5}) {
      ClockFollower follower;
      QVERIFY(!follower.tempo());
      for (int i = 0; i < 96; ++i) // a millisecond of jitter, as drivers have it
        follower.pulse(Seconds(10 + i * 60 / bpm / 24 + 0.001 * random.bipolar()));
      QVERIFY(std::abs(follower.tempo()->value / bpm - 1) < 0.003);
      follower.pulse(Seconds(60)); // a gap: begun anew
      QVERIFY(!follower.tempo());
    }
  }

  void theClockIsSentEvenly() {
    ClockSender sender;
    int sent = 0;
    for (double beats = 0; beats < 4; beats += 0.003) sent += sender.due(beats);
    QCOMPARE(sent, 96);
    // The loop goes round; pulses go on.
    for (double beats = 0; beats < 4; beats += 0.003) sent += sender.due(beats);
    QVERIFY(std::abs(sent - 192) <= 1);
    // A stall of two beats is not made up for.
    QVERIFY(sender.due(6) <= 4);
    QVERIFY(sender.due(6.001) <= 1);
    sender.reset();
    QCOMPARE(sender.due(1), 1); // the first pulse with the start
  }

  // ---- velocity ----

  void aCurveFitsTheHand() {
    QVERIFY(std::abs(VelocityCurve{}.velocityOf(127) - 1) < 1e-12);
    QVERIFY(std::abs(VelocityCurve{}.velocityOf(1) - 0.1) < 1e-12);
    // A stiff pad: what the player strikes softly, middling and hard.
    const auto curve = curveOf({20, 24, 90, 60, 44, 40, 95});
    QVERIFY(curve);
    QCOMPARE(curve->softest, 20);
    QCOMPARE(curve->hardest, 95);
    QVERIFY(std::abs(curve->velocityOf(44) - 0.6) < 1e-9);
    QVERIFY(std::abs(curve->velocityOf(127) - 1) < 1e-12);
    double last = 0;
    for (int sent = 1; sent < 128; ++sent) {
      const double v = curve->velocityOf(sent);
      QVERIFY(v >= last && v >= 0.1 && v <= 1);
      last = v;
    }
    QVERIFY(!curveOf({64, 64, 65, 66, 64, 65})); // a pad that sends one velocity
    QVERIFY(!curveOf({1, 64, 127}));
    QVERIFY(!curveOf({0, 200, -4, 300, 5, 6}));
  }

  // ---- files ----

  // The example of format 0 in the Standard MIDI Files 1.0 specification: four bytes of running
  // status, a delta time of two bytes, 96 ticks to a beat of half a second.
  void theStandardsExampleIsRead() {
    const std::vector<std::uint8_t> bytes{
        0x4d, 0x54, 0x68, 0x64, 0,    0,    0,    6,    0,    0,    0,    1,    0,    0x60,
        0x4d, 0x54, 0x72, 0x6b, 0,    0,    0,    0x3b, 0,    0xff, 0x58, 4,    4,    2,
        0x18, 8,    0,    0xff, 0x51, 3,    7,    0xa1, 0x20, 0,    0xc0, 5,    0,    0xc1,
        0x2e, 0,    0xc2, 0x46, 0,    0x92, 0x30, 0x60, 0,    0x3c, 0x60, 0x60, 0x91, 0x43,
        0x40, 0x60, 0x90, 0x4c, 0x20, 0x81, 0x40, 0x82, 0x30, 0x40, 0,    0x3c, 0x40, 0,
        0x81, 0x43, 0x40, 0,    0x80, 0x4c, 0x40, 0,    0xff, 0x2f, 0};
    const auto read = readSmf(write(bytes));
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    Messages notes;
    std::vector<double> times;
    for (const auto& timed : *read)
      if (timed.message.kind == Kind::NoteOn || timed.message.kind == Kind::NoteOff) {
        notes.push_back(timed.message);
        times.push_back(timed.atS);
      }
    QVERIFY(notes == Messages({{Kind::NoteOn, 2, 0x30, 0x60},
                               {Kind::NoteOn, 2, 0x3c, 0x60},
                               {Kind::NoteOn, 1, 0x43, 0x40},
                               {Kind::NoteOn, 0, 0x4c, 0x20},
                               {Kind::NoteOff, 2, 0x30, 0x40},
                               {Kind::NoteOff, 2, 0x3c, 0x40},
                               {Kind::NoteOff, 1, 0x43, 0x40},
                               {Kind::NoteOff, 0, 0x4c, 0x40}}));
    const std::vector<double> wanted{0, 0, 0.5, 1, 2, 2, 2, 2};
    for (std::size_t i = 0; i < wanted.size(); ++i) QVERIFY(std::abs(times[i] - wanted[i]) < 1e-9);
    // Bad ones say so: cut short, longer than it says, no ticks, none of it, none there.
    for (std::size_t length : {0, 4, 13, 21, 30, 60})
      QVERIFY(!readSmf(write({bytes.begin(), bytes.begin() + std::ptrdiff_t(length)})).ok());
    auto bad = bytes;
    bad[19] = 0x7f; // the track is said to be longer than the file
    QVERIFY(!readSmf(write(bad)).ok());
    bad = bytes;
    bad[13] = 0;
    QVERIFY(!readSmf(write(bad)).ok());
    QVERIFY(!readSmf(write(std::vector<std::uint8_t>(100, 7))).ok());
    QVERIFY(!readSmf(m_dir.filePath("none.mid").toStdString()).ok());
  }

  void whatWasTaughtComesBack() {
    Controllers taught;
    ControllerSettings& pads = taught["quay pads"];
    pads.layout = NoteLayout::Deck;
    pads.notes[41] = {Row::Air, 5};
    pads.slides[74] = "hand.velocity";
    pads.curve = {20, 95, 1.5};
    pads.pressRolls = false;
    pads.followClock = true;
    pads.wanted = false;
    const auto read = controllersFromText(controllersToText(taught), "test");
    QVERIFY(read.ok() && *read == taught);
    QVERIFY(*pads.spotOf(41) == (DeckSpot{Row::Air, 5})); // learnt before the layout
    QVERIFY(*pads.spotOf(36) == (DeckSpot{Row::Floor, 0}));
    QVERIFY(!controllersFromText("[]", "test").ok());
    QVERIFY(!controllersFromText("{\"format\": \"tuvvo controllers\", \"controllers\": [1]}", "t")
                 .ok());
    const auto wild = controllersFromText(
        "{\"format\": \"tuvvo controllers\", \"controllers\": [{\"name\": \"a\", \"softest\": 999,"
        " \"bend\": -4, \"notes\": [{\"note\": 5000, \"row\": \"air\", \"column\": 99}]}]}",
        "test");
    QVERIFY(wild.ok());
    QCOMPARE(wild->at("a").curve.softest, 126);
    QCOMPARE(wild->at("a").curve.bend, 0.25);
    QCOMPARE(wild->at("a").notes.at(127).column, 7);
    const auto nameless = controllersFromText(
        "{\"format\": \"tuvvo controllers\", \"controllers\": [{\"name\": \"a\","
        " \"notes\": [{\"row\": \"air\"}, {\"note\": 0, \"row\": \"air\"}],"
        " \"slides\": [{\"slide\": \"x\"}, {\"controller\": 0, \"slide\": \"y\"}]}]}",
        "test");
    QVERIFY(nameless.ok());
    const auto& taken = nameless->at("a"); // what says of no number where it belongs is left out
    QVERIFY(taken.notes == (std::map<int, DeckSpot>{{0, {Row::Air, 0}}}));
    QVERIFY(taken.slides == (std::map<int, std::string>{{0, "y"}}));
  }

  void whatWasTaughtByOldNamesGoesByIds() {
    const auto kept =
        readFile(std::string(TUVVO_TEST_DIR) + "/data/controllers/schema-1.json", 4096);
    QVERIFY(kept.ok());
    const auto read = controllersFromText(*kept, "test");
    QVERIFY(read.ok());
    const auto& pads = read->at("quay pads");
    const std::map<int, std::string> wanted{{7, "key.low-pass"},
                                            {10, "part.level"},
                                            {74, "hand.velocity"},
                                            {75, "feel.quantise-strength"},
                                            {76, "SomethingElse/That never was"}};
    QVERIFY(pads.slides == wanted);
    QVERIFY(pads.notes.at(41) == (DeckSpot{Row::Air, 5}));
    QCOMPARE(pads.curve.hardest, 95);
    const std::string again = controllersToText(*read);
    QVERIFY(again.find("\"schema\": 2") != std::string::npos);
    QVERIFY(again.find("\"lights\": \"amber\"") != std::string::npos); // not ours, and kept
    QVERIFY(again.find("HandBar") == std::string::npos);
    QVERIFY(*controllersFromText(again, "test") == *read);
  }

  // ---- the percussion map ----

  // Names and numbers of General MIDI System Level 1's percussion key map (from memory). The places
  // are our own, the same in every version, as what was taught and played goes by them.
  void percussionLiesByRole() {
    struct Drum {
      const char *name, *spot; ///< row and column
    };
    const std::array<Drum, 47> drums{{{"Acoustic Bass Drum", "F1"},
                                      {"Bass Drum 1", "F0"},
                                      {"Side Stick", "B2"},
                                      {"Acoustic Snare", "B0"},
                                      {"Hand Clap", "B3"},
                                      {"Electric Snare", "B1"},
                                      {"Low Floor Tom", "F5"},
                                      {"Closed Hi-Hat", "A0"},
                                      {"High Floor Tom", "F6"},
                                      {"Pedal Hi-Hat", "A1"},
                                      {"Low Tom", "F7"},
                                      {"Open Hi-Hat", "A2"},
                                      {"Low-Mid Tom", "B5"},
                                      {"Hi-Mid Tom", "B6"},
                                      {"Crash Cymbal 1", "A6"},
                                      {"High Tom", "B7"},
                                      {"Ride Cymbal 1", "A5"},
                                      {"Chinese Cymbal", "A7"},
                                      {"Ride Bell", "A5"},
                                      {"Tambourine", "A4"},
                                      {"Splash Cymbal", "A7"},
                                      {"Cowbell", "B7"},
                                      {"Crash Cymbal 2", "A6"},
                                      {"Vibraslap", "B6"},
                                      {"Ride Cymbal 2", "A5"},
                                      {"Hi Bongo", "B5"},
                                      {"Low Bongo", "B4"},
                                      {"Mute Hi Conga", "B4"},
                                      {"Open Hi Conga", "B4"},
                                      {"Low Conga", "B4"},
                                      {"High Timbale", "B6"},
                                      {"Low Timbale", "B6"},
                                      {"High Agogo", "A7"},
                                      {"Low Agogo", "A7"},
                                      {"Cabasa", "A3"},
                                      {"Maracas", "A3"},
                                      {"Short Whistle", "A7"},
                                      {"Long Whistle", "A7"},
                                      {"Short Guiro", "B5"},
                                      {"Long Guiro", "B5"},
                                      {"Claves", "B2"},
                                      {"Hi Wood Block", "B5"},
                                      {"Low Wood Block", "B5"},
                                      {"Mute Cuica", "B7"},
                                      {"Open Cuica", "B7"},
                                      {"Mute Triangle", "A7"},
                                      {"Open Triangle", "A7"}}};
    for (std::size_t i = 0; i < drums.size(); ++i) {
      const int note = 35 + int(i);
      const char row = drums[i].spot[0];
      QCOMPARE(std::string(percussionName(note)), std::string(drums[i].name));
      QCOMPARE(*percussionSpot(note), (DeckSpot{row == 'A'   ? Row::Air
                                                : row == 'B' ? Row::Body
                                                             : Row::Floor,
                                                drums[i].spot[1] - '0'}));
    }
    QVERIFY(!percussionSpot(34) && !percussionSpot(82) && percussionName(0).empty());
    QVERIFY(*deckSpot(36) == (DeckSpot{Row::Floor, 0}));
    QVERIFY(*deckSpot(67) == (DeckSpot{Row::Cuts, 7}));
    QVERIFY(!deckSpot(35) && !deckSpot(68));
  }
};

QTEST_GUILESS_MAIN(TestMidi)
#include "tst_midi.moc"

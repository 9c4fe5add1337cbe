#include "audio/decode.h"
#include "audio/encode.h"
#include "audio/peaks.h"
#include "audio/resample.h"
#include "support.h"

#include <QtTest>
#include <fcntl.h>
#include <fstream>
#include <sndfile.h>
#include <unistd.h>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

SoundPtr noise(int channels, std::int64_t frames, double rate, bool in24Bits) {
  Random random(9);
  Channels data;
  for (int c = 0; c < channels; ++c) data.emplace_back(std::size_t(frames), 0.0f);
  for (auto& channel : data)
    for (float& v : channel)
      v = in24Bits ? float(std::floor(random.bipolar() * 8388607)) / 8388608.0f
                   : float(random.bipolar());
  return std::make_shared<Sound>(std::move(data), Hertz(rate));
}

void writeBytes(const std::filesystem::path& path, const std::string& bytes) {
  std::ofstream(path, std::ios::binary) << bytes;
}

std::string little(std::uint32_t v, int bytes) {
  std::string out;
  for (int i = 0; i < bytes; ++i) out += char(v >> (8 * i) & 255);
  return out;
}

/// A WAV by the published layout, not by our encoder.
std::string wav(int format, int channels, int rate, int bits, const std::string& data,
                std::uint32_t claimed) {
  const int frame = channels * bits / 8;
  return "RIFF" + little(36 + claimed, 4) + "WAVEfmt " + little(16, 4) +
         little(std::uint32_t(format), 2) + little(std::uint32_t(channels), 2) +
         little(std::uint32_t(rate), 4) + little(std::uint32_t(rate * frame), 4) +
         little(std::uint32_t(frame), 2) + little(std::uint32_t(bits), 2) + "data" +
         little(claimed, 4) + data;
}

} // namespace

class TestAudio : public QObject {
  Q_OBJECT
  QTemporaryDir m_dir;
  JobContext m_job;

private slots:
  void losslessFormatsGiveTheSameSamples_data() {
    QTest::addColumn<QString>("name");
    QTest::addColumn<int>("format");
    QTest::addColumn<int>("samples");
    QTest::newRow("wav 24") << "a.wav" << int(FileFormat::Wav) << int(SampleFormat::Int24);
    QTest::newRow("wav float") << "b.wav" << int(FileFormat::Wav) << int(SampleFormat::Float32);
    QTest::newRow("flac") << "c.flac" << int(FileFormat::Flac) << int(SampleFormat::Int24);
  }
  void losslessFormatsGiveTheSameSamples() {
    QFETCH(QString, name);
    QFETCH(int, format);
    QFETCH(int, samples);
    const auto sound = noise(2, 5000, 44100, true);
    const auto path = pathIn(m_dir, qPrintable(name));
    QVERIFY(encodeFile(*sound, path, {FileFormat(format), SampleFormat(samples)}).ok());
    const auto back = decodeFile(path, m_job);
    QVERIFY(back.ok());
    QVERIFY(back->warnings.empty());
    QCOMPARE(back->sound->hash(), sound->hash());
  }

  /// A file by hand (header as below): each sample is what its bytes say, by the format's scale.
  void eachSampleIsWhatItsBytesSay() {
    const std::vector<std::int16_t> left{0, 1, -1, 16384, -32768, 32767}, right{5, 4, 3, 2, 1, -7};
    std::string data;
    const auto put = [&data](auto value) {
      data.append(reinterpret_cast<const char*>(&value), sizeof value); // little-endian, as we are
    };
    data += "RIFF";
    put(std::uint32_t(36 + left.size() * 4));
    data += "WAVEfmt ";
    put(std::uint32_t(16));
    put(std::uint16_t(1)); // PCM
    put(std::uint16_t(2));
    put(std::uint32_t(44100));
    put(std::uint32_t(44100 * 4));
    put(std::uint16_t(4));
    put(std::uint16_t(16));
    data += "data";
    put(std::uint32_t(left.size() * 4));
    for (std::size_t i = 0; i < left.size(); ++i) {
      put(left[i]);
      put(right[i]);
    }
    const auto path = pathIn(m_dir, "by hand.wav");
    writeBytes(path, data);
    const auto read = decodeFile(path, m_job);
    QVERIFY(read.ok());
    QCOMPARE(read->sound->rate().value, 44100.0);
    QCOMPARE(read->sound->frames().value, std::int64_t(left.size()));
    for (std::size_t i = 0; i < left.size(); ++i) {
      QCOMPARE(read->sound->channel(0)[i], float(left[i]) / 32768.0f);
      QCOMPARE(read->sound->channel(1)[i], float(right[i]) / 32768.0f);
    }
  }

  void lossyFormatsSoundAlike_data() {
    QTest::addColumn<QString>("name");
    QTest::newRow("ogg") << "a.ogg";
    QTest::newRow("opus") << "a.opus";
    QTest::newRow("mp3") << "a.mp3";
  }
  void lossyFormatsSoundAlike() {
    QFETCH(QString, name);
    const auto path = pathIn(m_dir, qPrintable(name));
    const auto tone = makeSound(sine(440, 1.0, 48000), 48000);
    QVERIFY(encodeFile(*tone, path, {*formatFromName(path), SampleFormat::Int16}).ok());
    const auto back = decodeFile(path, m_job);
    QVERIFY2(back.ok(), back.ok() ? "" : back.error().text().c_str());
    double square = 0;
    const auto samples = back->sound->channel(0).subspan(12000, 24000);
    for (float v : samples) square += double(v) * double(v);
    QVERIFY(std::abs(std::sqrt(square / double(samples.size())) - 0.5 / std::sqrt(2.0)) < 0.02);
  }

  void wavHeaderByThePublishedFormat() {
    // Multimedia Programming Interface and Data Specifications 1.0 (IBM and Microsoft, 1991).
    const auto path = pathIn(m_dir, "header.wav");
    QVERIFY(
        encodeFile(*noise(2, 100, 44100, true), path, {FileFormat::Wav, SampleFormat::Int16}).ok());
    std::ifstream in(path, std::ios::binary);
    const std::string b((std::istreambuf_iterator<char>(in)), {});
    const auto at = [&](std::size_t i, int n) {
      std::uint32_t v = 0;
      for (int k = 0; k < n; ++k)
        v |= std::uint32_t((unsigned char)(b[i + std::size_t(k)])) << (8 * k);
      return v;
    };
    QCOMPARE(b.substr(0, 4), std::string("RIFF"));
    QCOMPARE(at(4, 4), std::uint32_t(b.size() - 8));
    QCOMPARE(b.substr(8, 8), std::string("WAVEfmt "));
    QCOMPARE(at(20, 2), 1u);         // PCM
    QCOMPARE(at(22, 2), 2u);         // channels
    QCOMPARE(at(24, 4), 44100u);     // frames a second
    QCOMPARE(at(28, 4), 44100u * 4); // bytes a second
    QCOMPARE(at(32, 2), 4u);         // bytes a frame
    QCOMPARE(at(34, 2), 16u);
    const auto data = b.find("data");
    QCOMPARE(at(data + 4, 4), 400u);
  }

  void readsEveryRate_data() {
    QTest::addColumn<int>("rate");
    for (int rate : {8000, 11025, 22050, 44100, 48000, 96000, 192000})
      QTest::newRow(qPrintable(QString::number(rate))) << rate;
  }
  void readsEveryRate() {
    QFETCH(int, rate);
    const auto path = pathIn(m_dir, "rate.wav");
    writeBytes(path, wav(1, 1, rate, 16, std::string(2000, '\1'), 2000));
    const auto sound = decodeFile(path, m_job);
    QVERIFY(sound.ok());
    QCOMPARE(sound->sound->rate().value, double(rate));
    QCOMPARE(sound->sound->frames().value, 1000);
  }

  void foldsManyChannels() {
    // Six channels, only the centre sounding: both sides at −3 dB (ITU-R BS.775-3).
    std::string data;
    for (int i = 0; i < 100; ++i)
      for (int c = 0; c < 6; ++c)
        data += little(c == 2 ? 16384 : c == 3 ? 20000 : 0, 2); // the low channel is left out
    const auto path = pathIn(m_dir, "six.wav");
    writeBytes(path, wav(1, 6, 48000, 16, data, std::uint32_t(data.size())));
    const auto sound = decodeFile(path, m_job);
    QVERIFY(sound.ok());
    QCOMPARE(sound->sound->channels(), 2);
    QCOMPARE(int(sound->warnings.size()), 1);
    for (int c : {0, 1})
      QVERIFY(std::abs(double(sound->sound->channel(c)[50]) - 0.5 / std::sqrt(2.0)) < 1e-5);
  }

  // Each channel alone, by the usual orders of files (WAVE_FORMAT_EXTENSIBLE's masks): sides and
  // centre fold at −3 dB (ITU-R BS.775-3), the low channel is left out, a rear centre goes to both.
  void everyChannelFoldsToItsSide() {
    constexpr double side = M_SQRT1_2, none = 0, whole = 1, rear = 0.5;
    using Gains = std::vector<std::pair<double, double>>;
    const std::pair<double, double> L{whole, none}, R{none, whole}, C{side, side}, low{none, none},
        sl{side, none}, sr{none, side}, back{rear, rear};
    for (const Gains& gains :
         {Gains{L, R, C}, Gains{L, R, sl, sr}, Gains{L, R, C, sl, sr}, Gains{L, R, C, low, sl, sr},
          Gains{L, R, C, low, back, sl, sr}, Gains{L, R, C, low, sl, sr, sl, sr}}) {
      const int channels = int(gains.size());
      std::string data; // each for 100 frames
      for (int frame = 0; frame < 100 * channels; ++frame)
        for (int c = 0; c < channels; ++c) data += little(c == frame / 100 ? 16384 : 0, 2);
      const auto path = pathIn(m_dir, "fold.wav");
      writeBytes(path, wav(1, channels, 48000, 16, data, std::uint32_t(data.size())));
      const auto sound = decodeFile(path, m_job);
      QVERIFY(sound.ok());
      QCOMPARE(sound->sound->channels(), 2);
      for (int c = 0; c < channels; ++c) {
        const auto at = std::size_t(c * 100 + 50);
        QVERIFY(std::abs(double(sound->sound->channel(0)[at]) - 0.5 * gains[std::size_t(c)].first) <
                1e-5);
        QVERIFY(std::abs(double(sound->sound->channel(1)[at]) -
                         0.5 * gains[std::size_t(c)].second) < 1e-5);
      }
    }
  }

  void badFilesGetClearMessages_data() {
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<QString>("says");
    QTest::newRow("empty") << QByteArray() << "empty";
    QTest::newRow("text") << QByteArray("this is a shopping list, not a sound\n")
                          << "not a sound that Tuvvo knows";
    QTest::newRow("header only") << QByteArray::fromStdString(wav(1, 2, 44100, 16, "", 0))
                                 << "no sound";
    QTest::newRow("nine channels")
        << QByteArray::fromStdString(wav(1, 9, 44100, 16, std::string(180, 'x'), 180))
        << "9 channels";
    QTest::newRow("rate") << QByteArray::fromStdString(
                                 wav(1, 1, 4000, 16, std::string(100, 'x'), 100))
                          << "4000 Hz";
  }
  void badFilesGetClearMessages() {
    QFETCH(QByteArray, bytes);
    QFETCH(QString, says);
    const auto path = pathIn(m_dir, "bad.wav");
    writeBytes(path, bytes.toStdString());
    const auto result = decodeFile(path, m_job);
    QVERIFY(!result.ok());
    const QString text = QString::fromStdString(result.error().text());
    QVERIFY2(text.contains(says), qPrintable(text));
    QVERIFY(text.contains("bad.wav"));
    QVERIFY(!result.error().remedy.empty());
  }

  void missingFilesAndFolders() {
    QVERIFY(!decodeFile(pathIn(m_dir, "none.wav"), m_job).ok());
    QVERIFY(!decodeFile(m_dir.path().toStdString(), m_job).ok());
  }

  void cutOffAndLyingFilesAreReadAsFarAsTheyGo() {
    const auto path = pathIn(m_dir, "short.wav");
    writeBytes(path,
               wav(1, 1, 44100, 16, std::string(2000, '\2'), 4000000000u)); // claims four gigabytes
    const auto result = decodeFile(path, m_job);
    QVERIFY(result.ok());
    QCOMPARE(result->sound->frames().value, 1000);
    QCOMPARE(int(result->warnings.size()), 1);
  }

  void notNumbersBecomeSilence() {
    Samples values(500, 0.25f);
    values[7] = NAN;
    values[8] = INFINITY;
    const auto path = pathIn(m_dir, "nan.wav");
    writeBytes(path,
               wav(3, 1, 44100, 32,
                   std::string(reinterpret_cast<const char*>(values.data()), values.size() * 4),
                   2000));
    const auto result = decodeFile(path, m_job);
    QVERIFY(result.ok());
    QCOMPARE(result->sound->channel(0)[7], 0.0f);
    QCOMPARE(result->sound->channel(0)[8], 0.0f);
    QVERIFY(QString::fromStdString(result->warnings.at(0)).startsWith("2 samples"));
  }

  void everyTruncationIsSurvived() {
    const auto whole = pathIn(m_dir, "whole.flac"), cut = pathIn(m_dir, "cut.flac");
    QVERIFY(encodeFile(*noise(2, 3000, 44100, true), whole, {FileFormat::Flac, SampleFormat::Int16})
                .ok());
    std::ifstream in(whole, std::ios::binary);
    const std::string bytes((std::istreambuf_iterator<char>(in)), {});
    Random random(3);
    for (int i = 0; i < 60; ++i) {
      std::string damaged = bytes.substr(0, random.next() % bytes.size());
      if (i % 2 && !damaged.empty()) damaged[random.next() % damaged.size()] = char(random.next());
      writeBytes(cut, damaged);
      const auto result = decodeFile(cut, m_job); // either is right, as long as it comes back
      if (result)
        for (float v : result->sound->channel(0)) QVERIFY(std::isfinite(v));
      else
        QVERIFY(!result.error().what.empty());
    }
  }

  void floatsBeyondAnySoundAreSilencedAndSaid() {
    // Finite samples near the largest float, and integers under a float's header.
    const auto loud = std::string(TUVVO_TEST_DIR) + "/fuzz/seeds/sound/loud-float.wav";
    auto decoded = decodeFile(loud, m_job);
    QVERIFY(decoded.ok());
    QVERIFY(decoded->warnings[0].find("were made silent") != std::string::npos);
    for (int c = 0; c < decoded->sound->channels(); ++c)
      for (float v : decoded->sound->channel(c)) QVERIFY(std::abs(v) <= kLoudestSample);
    std::string integers;
    for (int i = 0; i < 4000; ++i) integers += little(std::uint32_t(i) * 2654435761u, 4);
    const auto path = pathIn(m_dir, "integers.wav");
    writeBytes(path, wav(3, 1, 44100, 32, integers, 16000));
    decoded = decodeFile(path, m_job);
    QVERIFY(decoded.ok() && !decoded->warnings.empty());
  }

  void aSoundOfManyHoursIsRefusedWhateverItsRate() {
    // 37 hours at 8 kHz in a file with a hole; and the longest that is taken, at that rate.
    for (const auto& [hours, fits] : {std::pair{37.0, false}, {3.01, false}}) {
      const auto path = pathIn(m_dir, "hours.wav");
      const auto bytes = std::uint32_t(hours * 3600 * 8000);
      writeBytes(path, wav(1, 1, 8000, 8, "", bytes));
      std::filesystem::resize_file(path, 44 + std::uintmax_t(bytes));
      const auto decoded = decodeFile(path, m_job);
      QCOMPARE(decoded.ok(), fits);
      QVERIFY(decoded.error().text().find("three hours") != std::string::npos);
      std::filesystem::remove(path);
    }
  }

  void damagedMp3sAreCalledDamaged() {
    for (const char* bytes :
         {"ID3\x04", "\xff\xfb\x90\x64 and nothing", "nothing at all like it"}) {
      const auto path = pathIn(m_dir, "bad.mp3");
      writeBytes(path, bytes);
      const auto decoded = decodeFile(path, m_job);
      QVERIFY(!decoded.ok());
      const std::string said = decoded.error().text();
      QVERIFY2(said.find("damaged or cut off") != std::string::npos, said.c_str());
      QVERIFY(said.find("pipe") == std::string::npos);
    }
  }

  void mp3IsReadAsTheGeneralLibraryReadsIt() {
    // libsndfile's own MP3 reading, frame by frame, beside ours.
    const auto path = pathIn(m_dir, "both.mp3");
    QVERIFY(
        encodeFile(*noise(2, 30'000, 44100, false), path, {FileFormat::Mp3, SampleFormat::Int16})
            .ok());
    const auto ours = decodeFile(path, m_job);
    QVERIFY(ours.ok());
    SF_INFO info{};
    SNDFILE* file = sf_open(path.c_str(), SFM_READ, &info);
    QVERIFY(file);
    std::vector<float> theirs(std::size_t(info.frames) * 2);
    QCOMPARE(sf_readf_float(file, theirs.data(), info.frames), info.frames);
    sf_close(file);
    QCOMPARE(ours->sound->frames().value, std::int64_t(info.frames));
    for (std::size_t i = 0; i < std::size_t(info.frames); ++i)
      for (int c = 0; c < 2; ++c)
        QCOMPARE(ours->sound->channel(c)[i], theirs[2 * i + std::size_t(c)]);
  }

  void anMp3ThatChangesItsRateEndsThereInSilence() {
    std::string bytes;
    for (double rate : {44100.0, 32000.0}) {
      const auto part = pathIn(m_dir, "part.mp3");
      QVERIFY(
          encodeFile(*noise(1, 20'000, rate, false), part, {FileFormat::Mp3, SampleFormat::Int16})
              .ok());
      QFile file(QString::fromStdString(part.string()));
      QVERIFY(file.open(QIODevice::ReadOnly));
      bytes += file.readAll().toStdString();
    }
    const auto path = pathIn(m_dir, "changing.mp3"), aloud = pathIn(m_dir, "stderr.txt");
    writeBytes(path, bytes);
    const int kept = ::dup(2), into = ::open(aloud.c_str(), O_CREAT | O_WRONLY, 0600);
    ::dup2(into, 2);
    const auto decoded = decodeFile(path, m_job);
    ::dup2(kept, 2);
    ::close(into), ::close(kept);
    QVERIFY(decoded.ok());
    QCOMPARE(decoded->sound->rate().value, 44100.0);
    QVERIFY(std::abs(double(decoded->sound->frames().value) - 20'000) < 4000); // encoder's padding
    QCOMPARE(QFileInfo(QString::fromStdString(aloud.string())).size(), qint64(0));
  }

  void whatMayNotBeReadIsNotCalledAListOfFormats() {
    const auto path = pathIn(m_dir, "forbidden.wav");
    writeBytes(path, wav(1, 1, 44100, 16, std::string(100, 'x'), 100));
    std::filesystem::permissions(path, std::filesystem::perms::none);
    if (::access(path.c_str(), R_OK) == 0) QSKIP("this user may read anything");
    const auto decoded = decodeFile(path, m_job);
    QVERIFY(!decoded.ok());
    QVERIFY(decoded.error().text().find("Permission denied") != std::string::npos);
    QVERIFY(decoded.error().text().find("FLAC") == std::string::npos);
  }

  void tooLongIsRefused() {
    const auto path = pathIn(m_dir, "long.wav");
    writeBytes(path, wav(1, 1, 44100, 16, std::string(4000, 'x'), 4000));
    QVERIFY(!decodeFile(path, m_job, {Seconds(1000.0 / 44100), 100000}).ok());
    QVERIFY(decodeFile(path, m_job, {Seconds(2000.0 / 44100), 100000}).ok());
  }

  void sixteenBitsAreDitheredTheSameEachTime() {
    const auto tone = makeSound(sine(1000, 0.5, 48000, 1e-5));
    const auto a = pathIn(m_dir, "d1.wav"), b = pathIn(m_dir, "d2.wav");
    QVERIFY(encodeFile(*tone, a, {FileFormat::Wav, SampleFormat::Int16}).ok());
    QVERIFY(encodeFile(*tone, b, {FileFormat::Wav, SampleFormat::Int16}).ok());
    const auto first = decodeFile(a, m_job), second = decodeFile(b, m_job);
    QCOMPARE(first->sound->hash(), second->sound->hash());
    QVERIFY(peakOf(*first->sound, Frames(0), first->sound->frames()) >
            0); // a tone below one step is kept by the dither
  }

  void resampleKeepsPitchAndLength() {
    const auto tone = makeSound(sine(1000, 1, 44100), 44100);
    const auto other = resample(*tone, Hertz(48000));
    QVERIFY(other.ok());
    QCOMPARE((*other)->frames().value, 48000);
    const auto expected = sine(1000, 1, 48000);
    for (std::size_t i = 2000; i < 46000; i += 97)
      QVERIFY(std::abs((*other)->channel(0)[i] - expected[i]) < 1e-4f);
    QVERIFY(!resample(*tone, Hertz(100)).ok());
  }

  void peaksHoldTheExtremes() {
    const auto sound = noise(2, 100000, 48000, false);
    const Peaks peaks(*sound);
    Random random(1);
    for (int i = 0; i < 300; ++i) {
      const auto a = std::int64_t(random.next() % 100000),
                 b = std::min<std::int64_t>(100000, a + 1 + std::int64_t(random.next() % 30000));
      const Extremes e = peaks.over(*sound, Frames(a), Frames(b));
      for (int c = 0; c < 2; ++c)
        for (std::int64_t k = a; k < b; k += 7) {
          const float v = sound->channel(c)[std::size_t(k)];
          QVERIFY(v >= e.low && v <= e.high);
        }
    }
  }

  /// The mean square of a sine is half of its amplitude's square; loud and silent halves average.
  void peaksKnowHowLoudAStretchIs() {
    auto samples = sine(1000, 1, 48000, 0.6);
    std::fill(samples.begin() + 24000, samples.end(), 0.0f);
    const auto sound = makeSound(std::move(samples), 48000);
    const Peaks peaks(*sound);
    const auto square = [&](int from, int to) {
      return peaks.over(*sound, Frames(from), Frames(to)).square;
    };
    QVERIFY(std::abs(square(0, 96) - 0.18f) < 0.002f);       // from the samples
    QVERIFY(std::abs(square(4096, 20480) - 0.18f) < 0.002f); // from blocks
    QVERIFY(std::abs(square(0, 48000) - 0.09f) < 0.003f);
    QCOMPARE(square(28672, 48000), 0.0f);
    // Two channels: the mean of both.
    auto left = sine(500, 1, 48000, 1.0);
    const auto two =
        std::make_shared<Sound>(Channels{std::move(left), Samples(48000, 0.0f)}, Hertz(48000));
    const float both = Peaks(*two).over(*two, Frames(0), Frames(48000)).square;
    QVERIFY(std::abs(both - 0.25f) < 0.003f);
  }
};

QTEST_APPLESS_MAIN(TestAudio)
#include "tst_audio.moc"

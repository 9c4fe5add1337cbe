// Processors against published formulas.
#include "mix/ducker.h"
#include "mix/every_parameter.h"
#include "mix/processor.h"
#include "support.h"

#include <QtTest>
#include <complex>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

constexpr double kRate = 48000;

/// What comes out for an impulse.
Samples responseOf(Processor& processor, int quanta = 256) {
  Samples out;
  for (int q = 0; q < quanta; ++q) {
    std::array<float, kQuantum> left{}, right{};
    if (q == 0) left[0] = right[0] = 1;
    processor.process(left.data(), right.data());
    out.insert(out.end(), left.begin(), left.end());
  }
  return out;
}

double dbAt(const Samples& response, double hz) {
  std::complex<double> sum = 0;
  for (std::size_t i = 0; i < response.size(); ++i)
    sum += double(response[i]) * std::polar(1.0, -2 * M_PI * hz / kRate * double(i));
  return 20 * std::log10(std::abs(sum));
}

/// Robert Bristow-Johnson, Audio EQ Cookbook: low-pass, high-pass, band-pass (constant 0 dB peak
/// gain) and notch, from f0 and Q.
double cookbookDb(int mode, double f0, double q, double hz) {
  const double w0 = 2 * M_PI * f0 / kRate, c = std::cos(w0), alpha = std::sin(w0) / (2 * q);
  const std::array<std::array<double, 3>, 4> b{{{(1 - c) / 2, 1 - c, (1 - c) / 2},
                                                {(1 + c) / 2, -(1 + c), (1 + c) / 2},
                                                {alpha, 0, -alpha},
                                                {1, -2 * c, 1}}};
  const std::array<double, 3> a{1 + alpha, -2 * c, 1 - alpha};
  const auto at = [&](const std::array<double, 3>& x) {
    const double w = 2 * M_PI * hz / kRate;
    return x[0] + x[1] * std::polar(1.0, -w) + x[2] * std::polar(1.0, -2 * w);
  };
  return 20 * std::log10(std::abs(at(b[std::size_t(mode)]) / at(a)));
}

} // namespace

class TestProcessors : public QObject {
  Q_OBJECT
private slots:
  void everyTypeIsDescribed() {
    QVERIFY(!processorTypes().empty());
    std::set<std::string_view> ids;
    for (const ProcessorType* type : processorTypes()) {
      QVERIFY(ids.insert(type->id).second);
      QCOMPARE(findProcessorType(type->id), type);
      QVERIFY(!type->name.empty() && !type->about.empty());
      std::set<std::string_view> own;
      for (const auto& parameter : type->parameters) {
        QVERIFY(own.insert(parameter.id).second);
        QVERIFY(parameter.least <= parameter.standard && parameter.standard <= parameter.most);
        QVERIFY(parameter.taper == Taper::Even || parameter.least > 0);
        QVERIFY(parameter.words.empty() || double(parameter.words.size() - 1) == parameter.most);
        for (double place : {0.0, 0.25, 1.0}) { // a slide's way and back, and what is written
          const double value = valueAt(parameter, place);
          QVERIFY(std::abs(valueAt(parameter, placeOf(parameter, value)) - value) <=
                  1e-9 * std::max(1.0, std::abs(value)));
          const auto again = parsed(parameter, written(parameter, value));
          QVERIFY(again.has_value());
          QVERIFY(std::abs(*again - value) <= 0.5001 * std::pow(10, -parameter.decimals));
        }
        QCOMPARE(clamped(parameter, NAN), parameter.standard);
        QCOMPARE(clamped(parameter, 1e99), parameter.most);
      }
    }
    QVERIFY(!findProcessorType("melt"));
  }

  void theFilterIsTheCookbooks() {
    for (int mode = 0; mode < 4; ++mode)
      for (double f0 : {60.0, 1000.0, 9000.0})
        for (double resonance : {0.0, 12.0}) {
          const auto filter = kFilterType.make(Hertz(kRate));
          filter->set(0, mode);
          filter->set(2, f0);
          filter->set(3, resonance);
          filter->reset();
          const Samples response = responseOf(*filter, 1024);
          const double q = std::pow(10, resonance / 20) / std::sqrt(2);
          for (double hz = 30; hz < 20'000; hz *= 1.37) {
            const double wanted = cookbookDb(mode, f0, q, hz);
            if (wanted < -70) continue; // below what floats of an impulse tell
            QVERIFY2(std::abs(dbAt(response, hz) - wanted) < 0.1,
                     qPrintable(QString("%1 %2 %3: %4 %5")
                                    .arg(mode)
                                    .arg(f0)
                                    .arg(hz)
                                    .arg(dbAt(response, hz))
                                    .arg(wanted)));
          }
        }
  }

  void theSteepFilterIsButterworths() {
    // |H|² = 1 / (1 + (tan(ω/2) / tan(ω₀/2))^8): the bilinear transform of a Butterworth low-pass
    // of fourth order (any handbook of filters).
    const auto filter = kFilterType.make(Hertz(kRate));
    filter->set(1, 1);
    filter->set(2, 2000);
    filter->reset();
    const Samples response = responseOf(*filter, 512);
    for (double hz : {100.0, 1000.0, 2000.0, 3000.0, 6000.0, 10'000.0}) {
      const double x = std::tan(M_PI * hz / kRate) / std::tan(M_PI * 2000 / kRate);
      const double wanted = -10 * std::log10(1 + std::pow(x, 8));
      QVERIFY(std::abs(dbAt(response, hz) - wanted) < 0.1);
    }
  }

  void aTurnOfTheFilterMakesNoStep() {
    const auto filter = kFilterType.make(Hertz(kRate));
    filter->set(2, 20'000);
    filter->reset();
    const Samples tone = sine(200, 1, kRate);
    double last = 0, steepest = 0;
    for (std::size_t at = 0; at + kQuantum <= tone.size(); at += kQuantum) {
      if (at == kQuantum * 200) filter->set(2, 100);
      std::array<float, kQuantum> left, right;
      std::copy_n(tone.begin() + std::ptrdiff_t(at), kQuantum, left.begin());
      right = left;
      filter->process(left.data(), right.data());
      for (float v : left) {
        if (at > 0) steepest = std::max(steepest, std::abs(double(v) - last));
        last = double(v);
      }
      QVERIFY(left == right);
    }
    QVERIFY(steepest < 0.5 * 2 * M_PI * 200 / kRate * 1.05); // as steep as the tone itself
  }

  void theLimiterKeepsItsCeilingAndSaysHowLateItIs() {
    const auto limiter = kLimiterType.make(Hertz(kRate));
    limiter->set(0, -6);
    limiter->reset();
    const Samples response = responseOf(*limiter, 4);
    const auto loudest = std::max_element(response.begin(), response.end());
    QCOMPARE(int(loudest - response.begin()), limiter->latency());
    QVERIFY(*loudest <= float(std::pow(10, -6 / 20.0)) + 1e-6f);
    QVERIFY(*loudest > 0.45f);
  }

  // Files leave out what stands at its standard, and controllers move over a range by its taper: a
  // beat sounds different where one of them changes. tests/data/parameters.json says what they are;
  // whoever changes one on purpose writes a migration, and the new figure there.
  void parametersAreWhatFilesAndControllersGoBy() {
    QFile file(QStringLiteral(TUVVO_TEST_DIR "/data/parameters.json"));
    QVERIFY(file.open(QIODevice::ReadOnly));
    const auto kept = QJsonDocument::fromJson(file.readAll()).array();
    const auto all = everyParameter();
    QCOMPARE(std::size_t(kept.size()), all.size());
    for (std::size_t i = 0; i < all.size(); ++i) {
      const auto one = kept[qsizetype(i)].toObject();
      const Parameter& now = *all[i].parameter;
      const QString id = one["id"].toString();
      QCOMPARE(QString::fromStdString(all[i].id), id);
      QCOMPARE(QString::fromUtf8(symbolOf(now.unit).data(), qsizetype(symbolOf(now.unit).size())),
               one["unit"].toString());
      for (const auto& [name, figure] : {std::pair{"least", now.least},
                                         {"most", now.most},
                                         {"standard", now.standard},
                                         {"step", now.step},
                                         {"decimals", double(now.decimals)},
                                         {"reach", now.reach}})
        QVERIFY2(figure == one[name].toDouble(), qPrintable(id + " " + name));
      QVERIFY2((now.taper == Taper::Ratio) == (one["taper"].toString() == "ratio"), qPrintable(id));
    }
  }

  // Steps back in a straight line within 2 ms, comes back as 1 − (1 − to) · e^(−t / back); struck
  // again, also within one quantum, it begins where it is.
  void aDuckerFollowsItsFormulaFromStrikeToStrike() {
    const std::vector<std::int64_t> strikes{1000, 1300, 1330, 1350, 5000};
    const double to = 0.1, back = 400;
    Ducker ducker;
    ducker.plan({true, float(to), float(back)});
    std::vector<double> gains, owed;
    for (std::int64_t quantum = 0; quantum < 12'800; quantum += kQuantum) {
      for (auto strike : strikes)
        if (strike / kQuantum * kQuantum == quantum) ducker.strike(quantum, int(strike - quantum));
      const float* all = ducker.finish(quantum);
      for (int i = 0; i < kQuantum; ++i) gains.push_back(all ? double(all[i]) : 1.0);
    }
    double from = 1;
    std::int64_t since = -100'000;
    const auto at = [&](std::int64_t frame) {
      const double gone = double(frame - since);
      if (gone < 96) return from + (to - from) * gone / 96;
      const double gain = 1 - (1 - to) * std::exp(-(gone - 96) / back);
      return gain < 0.9995 ? gain : 1; // as good as back
    };
    for (std::int64_t frame = 0; frame < std::int64_t(gains.size()); ++frame) {
      if (std::find(strikes.begin(), strikes.end(), frame) != strikes.end()) {
        from = at(frame);
        since = frame;
      }
      owed.push_back(at(frame));
      const double is = gains[std::size_t(frame)];
      const bool border = is > 0.9994 && owed.back() > 0.9994;
      QVERIFY2(std::abs(is - owed.back()) < (border ? 6e-4 : 1e-5),
               qPrintable(QString("%1: %2, not %3").arg(frame).arg(is).arg(owed.back())));
    }
    QVERIFY(std::abs(*std::min_element(gains.begin(), gains.end()) - to) < 1e-6);
    QCOMPARE(gains.back(), 1.0); // it stands, and costs nothing
  }

  void whatFaustGaveIsWhatIsKept() {
    QTemporaryDir folder;
    QProcess faust;
    faust.start(QStringLiteral(TUVVO_TEST_DIR) + "/../tools/make_faust.sh", {folder.path()});
    QVERIFY(faust.waitForFinished(60'000));
    QVERIFY2(faust.exitCode() == 0, faust.readAllStandardError().constData());
    const QDir made(folder.path());
    QVERIFY(!made.entryList(QDir::Files).isEmpty());
    for (const auto& name : made.entryList(QDir::Files)) {
      QFile fresh(made.filePath(name)),
          kept(QStringLiteral(TUVVO_TEST_DIR) + "/../core/mix/faust/" + name);
      QVERIFY(fresh.open(QIODevice::ReadOnly));
      QVERIFY2(kept.open(QIODevice::ReadOnly), qPrintable(name));
      QVERIFY2(fresh.readAll() == kept.readAll(),
               qPrintable(name + " is older than its .dsp: run tools/make_faust.sh"));
    }
  }
};

QTEST_GUILESS_MAIN(TestProcessors)
#include "tst_processors.moc"

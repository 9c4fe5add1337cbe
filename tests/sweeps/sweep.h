// Sweeps: many functions over many inputs that are made up on a grid, so that the ends of ranges
// and places that coincide are among them. Of most answers a mark is kept, not the answer: these
// tests notice that something changed, and others say what is right. Whoever changes something on
// purpose runs them with TUVVO_KEEP=1; with TUVVO_ANSWERS=FOLDER the answers themselves are written
// there, to be compared with those of before.
#pragma once

#include "audio/sound.h"
#include "base/hash.h"
#include "formats/pattern_json.h"
#include "formats/project_json.h"
#include "kept.h"

namespace tuvvo::test {

class Sweep {
public:
  explicit Sweep(std::string name) : m_name(std::move(name)) {}

  void tell(const std::string& what, const KeptJson& answer) {
    const std::string text = rounded(answer).dump();
    KeptJson& marks = m_marks[what];
    if (const QString folder = qEnvironmentVariable("TUVVO_ANSWERS"); !folder.isEmpty()) {
      QFile file(QString("%1/%2, %3, %4.json")
                     .arg(folder, QString::fromStdString(m_name), QString::fromStdString(what))
                     .arg(marks.size()));
      if (file.open(QIODevice::WriteOnly)) file.write(QByteArray::fromStdString(text));
    }
    marks.push_back(contentHash(text.data(), text.size()).substr(0, 6));
  }
  void tell(const std::string& what, const Project& project) {
    tell(what, KeptJson::parse(projectToText(project, 0)));
  }
  void tell(const std::string& what, const Pattern& pattern) {
    tell(what, KeptJson::parse(toJson(pattern).dump()));
  }
  /// How loud each of sixteen stretches of either side is, and how alike the sides are: figures, as
  /// single frames are rounded otherwise by another processor.
  void tell(const std::string& what, const Channels& sound) {
    KeptJson answer = {sound.empty() ? 0 : sound[0].size()};
    for (std::size_t part = 0; part < 16 && sound.size() == 2; ++part) {
      std::array<double, 3> sums{1e-9, 1e-9, 0};
      const std::size_t all = sound[0].size();
      for (std::size_t i = all * part / 16; i < all * (part + 1) / 16; ++i) {
        const double l = double(sound[0][i]), r = double(sound[1][i]);
        sums = {sums[0] + l * l, sums[1] + r * r, sums[2] + l * r};
      }
      for (int side : {0, 1}) answer.push_back(figure(10 * std::log10(sums[std::size_t(side)])));
      answer.push_back(figure(sums[2] / std::sqrt(sums[0] * sums[1])));
    }
    m_marks[what].push_back(answer);
  }

  /// The sanitizers' build is another compiler's, which adds in another order: there the sweeps
  /// only look for faults.
  void compare() const {
#ifndef __clang__
    compareKept("sweep-" + m_name + ".json", m_marks);
#endif
  }
  [[nodiscard]] std::size_t answers() const {
    std::size_t all = 0;
    for (const auto& [what, marks] : m_marks.items()) all += marks.size();
    return all;
  }

private:
  /// Processors round the last places of a sine or a power otherwise. What people write and what
  /// halves come to never lies half way between two of these steps.
  static KeptJson rounded(KeptJson value) {
    if (value.is_number_float())
      return std::isfinite(value.get<double>())
                 ? KeptJson(std::round(value.get<double>() * 101234.56789))
                 : KeptJson("no figure");
    if (value.is_structured())
      for (auto& one : value) one = rounded(std::move(one));
    return value;
  }

  std::string m_name;
  KeptJson m_marks = KeptJson::object();
};

} // namespace tuvvo::test

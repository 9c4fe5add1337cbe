// What is computed from the demo and from drawn sounds, against the same of the day it was looked
// at. Whoever changes it on purpose runs the test with TUVVO_KEEP=1, which writes the file anew,
// and looks at the difference. That it is right is for other tests to say; this one says that it is
// as it was.
#pragma once
#include "formats/json_read.h"

#include <QFile>
#include <QtTest>
#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>
#include <set>

namespace tuvvo::test {

using KeptJson = nlohmann::ordered_json;

/// Where two differ: in words exactly, in figures by more than a share of them (the Fourier
/// transform of another processor rounds otherwise). Empty where they do not.
inline QString differences(const KeptJson& kept, const KeptJson& now, const std::string& at = {},
                           double share = 1e-3) {
  if (kept.is_number() && now.is_number()) {
    const double a = kept.get<double>(), b = now.get<double>();
    if (std::abs(a - b) <= share * std::max(1.0, std::abs(a))) return {};
  } else if (kept.type() == now.type() && kept.is_structured() && kept.size() == now.size()) {
    for (const auto& [key, value] : kept.items()) {
      const auto other = kept.is_array()     ? now[std::stoul(key)]
                         : now.contains(key) ? now[key]
                                             : KeptJson();
      if (const QString found = differences(value, other, at + "/" + key, share); !found.isEmpty())
        return found;
    }
    return {};
  } else if (kept == now) {
    return {};
  }
  return QString::fromStdString(at + ": " + now.dump().substr(0, 80) + " and not " +
                                kept.dump().substr(0, 80));
}

/// A figure as it is kept: five places are more than is compared.
inline double figure(double value) { return std::round(value * 1e5) / 1e5; }

/// What a change does to a document, a line each: where, what went and what came. Things with an id
/// are found by it; of other lists that grow or shrink it is said which entries went and came.
inline void tellChanges(const KeptJson& before, const KeptJson& after, const std::string& where,
                        KeptJson& lines) {
  if (before == after) return;
  const auto named = [](const KeptJson& list) {
    return list.is_array() && std::all_of(list.begin(), list.end(), [](const KeptJson& one) {
             return one.is_object() && one.contains("id");
           });
  };
  if (before.is_object() && after.is_object()) {
    for (const auto& [key, value] : before.items())
      if (!after.contains(key))
        lines.push_back({where + "/" + key, value, nullptr});
      else
        tellChanges(value, after[key], where + "/" + key, lines);
    for (const auto& [key, value] : after.items())
      if (!before.contains(key)) lines.push_back({where + "/" + key, nullptr, value});
  } else if (named(before) && named(after)) {
    KeptJson was = KeptJson::array(), is = was;
    for (const auto& one : before) was.push_back(one["id"]);
    for (const auto& one : after) is.push_back(one["id"]);
    if (was != is) lines.push_back({where, was, is});
    for (const auto& one : after) {
      const auto old = std::find_if(before.begin(), before.end(),
                                    [&](const KeptJson& b) { return b["id"] == one["id"]; });
      tellChanges(old == before.end() ? KeptJson() : *old, one, where + "/" + one["id"].dump(),
                  lines);
    }
  } else if (before.is_array() && after.is_array() && before.size() != after.size()) {
    std::multiset<std::string> gone, come;
    for (const auto& one : before) gone.insert(one.dump());
    for (const auto& one : after)
      if (const auto same = gone.find(one.dump()); same != gone.end())
        gone.erase(same);
      else
        come.insert(one.dump());
    KeptJson line = {where, KeptJson::array(), KeptJson::array()};
    for (const auto& one : gone) line[1].push_back(KeptJson::parse(one));
    for (const auto& one : come) line[2].push_back(KeptJson::parse(one));
    lines.push_back(line);
  } else if (before.is_array() && after.is_array()) {
    for (std::size_t i = 0; i < before.size(); ++i)
      tellChanges(before[i], after[i], where + "/" + std::to_string(i), lines);
  } else {
    lines.push_back({where, before, after});
  }
}
inline KeptJson changesOf(const KeptJson& before, const KeptJson& after) {
  KeptJson lines = KeptJson::array();
  tellChanges(before, after, {}, lines);
  return lines;
}

/// Reads the file that is kept under a name; with TUVVO_KEEP writes it first.
/// @returns an object; empty where there is none
inline KeptJson keptOrKeep(const std::string& name, const KeptJson& now) {
  QFile file(QString::fromStdString(TUVVO_TEST_DIR "/data/" + name));
  if (qEnvironmentVariableIsSet("TUVVO_KEEP") && file.open(QIODevice::WriteOnly)) {
    QByteArray text = "{";
    for (const auto& [key, value] : now.items())
      text += QByteArray::fromStdString((text.size() > 1 ? ",\n" : "\n") + KeptJson(key).dump() +
                                        ": " + value.dump());
    file.write(text + "\n}\n");
    file.close();
  }
  if (!file.open(QIODevice::ReadOnly)) return KeptJson::object();
  return KeptJson::parse(file.readAll().toStdString());
}

/// Every entry of what is kept is there now and the same, and none is new.
inline void compareKept(const std::string& name, const KeptJson& now, double share = 1e-3) {
  const KeptJson kept = keptOrKeep(name, now);
  if (qEnvironmentVariableIsSet("TUVVO_KEEP")) QSKIP("kept anew");
  for (const auto& [key, value] : now.items()) QVERIFY2(kept.contains(key), key.c_str());
  for (const auto& [key, value] : kept.items()) {
    QVERIFY2(now.contains(key), key.c_str());
    QCOMPARE(differences(value, now[key], key, share), QString());
  }
}

} // namespace tuvvo::test

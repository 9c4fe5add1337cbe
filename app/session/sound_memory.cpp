#include "session/sound_memory.h"

#include "base/convert.h"
#include "base/files.h"

#include <QJsonDocument>
#include <QJsonObject>
#include <QStandardPaths>
#include <algorithm>

namespace tuvvo {

namespace {
constexpr std::uint64_t kMostChoiceBytes = 1u << 20;
constexpr int kMostLatencies = 500;
constexpr std::int64_t kLongestWay = 96'000; ///< frames: two seconds
} // namespace

SoundMemory::SoundMemory() {
  m_file = (QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) +
            QStringLiteral("/tuvvo/sound.json"))
               .toStdString();
  read();
}

void SoundMemory::read() {
  if (!std::filesystem::exists(m_file)) return;
  const auto bytes = readFile(m_file, kMostChoiceBytes);
  const auto document =
      bytes ? QJsonDocument::fromJson(QByteArray::fromStdString(*bytes)) : QJsonDocument();
  if (!document.isObject()) {
    m_readable = false;
    m_trouble = Error{"What was chosen for sound cannot be read", m_file.string(),
                      "Move the file away; a new one is made."}
                    .text();
    return;
  }
  const QJsonObject json = document.object();
  const auto text = [&](const char* name) { return json[QLatin1String(name)].toString(); };
  m_choice.server = outputFromName(text("server").toStdString()).value_or(OutputChoice::Automatic);
  m_choice.input = inputFromName(text("input").toStdString()).value_or(InputChoice::None);
  m_choice.output = text("output").left(500).toStdString();
  m_choice.inputName = text("inputName").left(500).toStdString();
  m_choice.rate = Hertz(std::clamp(json[QLatin1String("rate")].toDouble(48000), 22'050.0, 192e3));
  m_choice.blockFrames = std::clamp(json[QLatin1String("block")].toInt(256), 16, 8192);
  m_choice.inputPair = std::clamp(json[QLatin1String("inputPair")].toInt(), 0, 31);
  const QJsonObject latencies = json[QLatin1String("latencies")].toObject();
  for (auto each = latencies.begin();
       each != latencies.end() && int(m_latencies.size()) < kMostLatencies; ++each)
    m_latencies[each.key().toStdString()] =
        std::clamp<std::int64_t>(toWhole<std::int64_t>(each.value().toDouble()), 0, kLongestWay);
}

void SoundMemory::write() {
  if (!m_readable) return;
  QJsonObject latencies;
  for (const auto& [setup, frames] : m_latencies)
    latencies[QString::fromStdString(setup)] = double(frames);
  const QJsonObject json{{"format", "tuvvo sound"},
                         {"server", QString::fromStdString(nameOf(m_choice.server))},
                         {"output", QString::fromStdString(m_choice.output)},
                         {"rate", m_choice.rate.value},
                         {"block", m_choice.blockFrames},
                         {"input", QString::fromStdString(nameOf(m_choice.input))},
                         {"inputName", QString::fromStdString(m_choice.inputName)},
                         {"inputPair", m_choice.inputPair},
                         {"latencies", latencies}};
  std::error_code code;
  std::filesystem::create_directories(m_file.parent_path(), code);
  if (auto written = writeFileAtomically(m_file, QJsonDocument(json).toJson().toStdString());
      !written)
    m_trouble = written.error().text();
}

void SoundMemory::keepChoice(const SoundChoice& choice) {
  if (choice == m_choice) return;
  m_choice = choice;
  write();
}

std::optional<std::int64_t> SoundMemory::latency(const std::string& setup) const {
  const auto known = m_latencies.find(setup);
  return known == m_latencies.end() ? std::nullopt : std::optional(known->second);
}

void SoundMemory::keepLatency(const std::string& setup, std::int64_t frames) {
  m_latencies[setup] = std::clamp<std::int64_t>(frames, 0, kLongestWay);
  write();
}

std::string SoundMemory::setupOf(const LiveSound& live) {
  if (!live.device()) return {};
  return live.device()->name() + " | " + live.inputName() + " | " +
         std::to_string(int(live.device()->rate().value)) + " | " +
         std::to_string(live.device()->blockFrames());
}

std::string SoundMemory::takeTrouble() { return std::exchange(m_trouble, {}); }

} // namespace tuvvo

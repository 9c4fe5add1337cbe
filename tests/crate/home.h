// A crate of its own over a folder of its own, for tests.
#pragma once
#include "audio/encode.h"
#include "crate/scanner.h"
#include "support.h"

#include <filesystem>

namespace tuvvo::test {

inline constexpr Scanner::Parameters kAtOnce{2, Milliseconds(0), 64};

struct Home {
  QTemporaryDir dir;
  std::filesystem::path sounds = pathIn(dir, "sounds"), place = pathIn(dir, "crate");
  std::unique_ptr<Crate> crate;
  Home() {
    std::filesystem::create_directories(sounds);
    open();
  }
  Crate::Opened open() {
    crate.reset();
    auto opened = Crate::open(place);
    if (!opened) qFatal("%s", opened.error().text().c_str());
    Crate::Opened out = std::move(opened).value();
    crate = std::move(out.crate);
    return out;
  }
  Scanner::Progress scan(const Scanner::Parameters& parameters = kAtOnce) {
    if (!crate->addFolder(sounds.string())) qFatal("the folder cannot be added");
    Scanner scanner(*crate, parameters);
    scanner.scan({sounds});
    scanner.wait();
    return scanner.progress();
  }
  std::filesystem::path put(const std::string& name, const Sound& sound) {
    const std::filesystem::path path = sounds / name;
    std::filesystem::create_directories(path.parent_path());
    const auto written = encodeFile(sound, path, {FileFormat::Wav, SampleFormat::Int16});
    if (!written) qFatal("%s", written.error().text().c_str());
    return path;
  }
  std::vector<CrateRow> rows(const std::string& words = "", CrateOrder order = CrateOrder::Name,
                             BeatNow beat = {}) {
    std::vector<CrateRow> out;
    const auto found = crate->find(readQuery(words), order, beat);
    if (!found) qFatal("%s", found.error().text().c_str());
    for (CrateId id : found->ids) out.push_back(**crate->row(id));
    return out;
  }
  std::string names(const std::string& words = "", CrateOrder order = CrateOrder::Name,
                    BeatNow beat = {}) {
    std::string out;
    for (const auto& row : rows(words, order, beat)) out += row.name + ' ';
    return out;
  }
};

} // namespace tuvvo::test

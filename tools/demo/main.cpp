// Makes data/kit and data/demo: make-demo DATA-FOLDER [SOUNDFONT]. The same call gives the same
// files.
#include "audio/decode.h"
#include "audio/encode.h"
#include "base/files.h"
#include "formats/bundle.h"
#include "formats/project_json.h"
#include "formats/shipped.h"
#include "kit.h"
#include "listen/analyse.h"
#include "scenes.h"
#include "service.h"
#include "stand_ins.h"

#include <cstdio>
#include <filesystem>

using namespace tuvvo;
using namespace tuvvo::demo;

namespace {

/// What was heard stands beside the sound, so that the demo opens at once.
void keepHearing(std::filesystem::path path, const Analysis& heard) {
  if (auto kept = writeHearing(path.replace_extension(".heard.json"), heard); !kept)
    std::fprintf(stderr, "%s\n", kept.error().text().c_str());
}

/// Hears the sounds that ship anew and leaves everything else as it is.
int hearAgain(const std::filesystem::path& data) {
  for (const char* folder : {"demo", "kit", "service"})
    for (const auto& file : std::filesystem::directory_iterator(data / folder)) {
      if (file.path().extension() != ".flac") continue;
      JobContext job;
      const auto decoded = decodeFile(file.path(), job);
      if (!decoded) {
        std::fprintf(stderr, "%s\n", decoded.error().text().c_str());
        return 1;
      }
      keepHearing(file.path(), analyse(*decoded->sound, job));
    }
  return 0;
}

Source written(const Buffer& buffer, bool mono, const std::filesystem::path& path,
               const std::string& name) {
  const SoundPtr sound = buffer.sound(mono);
  const auto result = encodeFile(*sound, path, {FileFormat::Flac, SampleFormat::Int16});
  JobContext job;
  auto decoded = result ? decodeFile(path, job) : Result<DecodedFile>(result.error());
  if (!decoded) {
    std::fprintf(stderr, "%s\n", decoded.error().text().c_str());
    std::exit(1);
  }
  Source source;
  source.name = name;
  source.origin = "made for Tuvvo's demonstration";
  source.sound = decoded->sound;
  source.hash = source.sound->hash();
  source.heard = analyse(*source.sound, job);
  source.provenance = shippedProvenance(name);
  const auto folder = path.parent_path().filename();
  if (folder == "demo" || folder == "kit") keepHearing(path, *source.heard);
  std::printf("%-14s %6.2f s  %7ju bytes", name.c_str(), source.sound->duration().value,
              std::uintmax_t(std::filesystem::file_size(path)));
  if (source.heard->tempo)
    std::printf("  %.3f BPM (%.2f) drift %.1f ms", source.heard->tempo->bpm.value,
                source.heard->tempo->confidence, source.heard->tempo->drift.value);
  if (source.heard->loop) std::printf("  loop of %d bars", source.heard->loop->bars);
  if (source.heard->key)
    std::printf("  %s %+.1f ct", nameOf(source.heard->key->name).c_str(),
                source.heard->key->tuning.value);
  std::printf("  %zu onsets  %.1f LUFS\n", source.heard->onsets.size(),
              source.heard->loudness.integratedLufs);
  return source;
}

} // namespace

int main(int argc, char** argv) {
  if (argc < 2) {
    std::fprintf(stderr,
                 "usage: make-demo DATA-FOLDER [SOUNDFONT | --hear | --service | --stand-ins]\n");
    return 2;
  }
  if (argc > 2 && std::string_view(argv[2]) == "--hear") return hearAgain(argv[1]);
  const std::filesystem::path data = argv[1];
  const std::string ordinary = "/usr/share/sounds/sf2/TimGM6mb.sf2";
  if (argc > 2 && std::string_view(argv[2]) == "--service")
    return makeService(data, ordinary) ? 0 : 1;
  std::filesystem::create_directories(data / "stand-ins");
  written(makeMicrophone(), true, data / "stand-ins" / "microphone.flac", "microphone");
  if (argc > 2 && std::string_view(argv[2]) == "--stand-ins") return 0;
  const std::string soundfont = argc > 2 ? argv[2] : ordinary;
  std::filesystem::create_directories(data / "kit");
  std::filesystem::create_directories(data / "demo");
  std::vector<Source> kit;
  for (const auto& drum : makeKit()) {
    kit.push_back(
        written(drum.sound, drum.mono, data / "kit" / (drum.file + ".flac"), drum.file.substr(3)));
    kit.back().kit = true;
  }
  Source brass =
      written(makeBrassLoop(soundfont), false, data / "demo" / "lantern row.flac", "lantern row");
  Source drums = written(makeBreak(soundfont), false, data / "demo" / "pier nine break.flac",
                         "pier nine break");
  Source quay = written(makeQuay(), false, data / "demo" / "quay at night.flac", "quay at night");
  brass.provenance = {};
  brass.provenance.title = "Lantern Row";
  brass.provenance.maker = "the ferry band of Salt Quay";
  brass.provenance.from = "their own disc";
  brass.provenance.recording = brass.provenance.composition = Permission::Asked;
  brass.provenance.note = "letter to the ferry band, not answered yet";
  brass.corrections.key =
      keyFromName("Cm"); // its relative major has the same notes; the band says minor
  drums.provenance = {};
  const Project beat =
      makeBeat(std::move(kit), std::move(brass), std::move(drums), std::move(quay));
  const auto saved = writeFileAtomically(data / "demo" / "salt quay.json", projectToText(beat, 1));
  if (!saved) std::fprintf(stderr, "%s\n", saved.error().text().c_str());
  return saved && makeService(data, soundfont) ? 0 : 1;
}

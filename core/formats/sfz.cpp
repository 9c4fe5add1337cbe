#include "formats/sfz.h"

#include <cmath>
#include <cstdio>

namespace tuvvo {

namespace {

constexpr int kFirstNote = 36, kLastNote = 127;

std::string figure(double value) {
  char text[40];
  std::snprintf(text, sizeof text, "%.6g", value);
  return text;
}

} // namespace

std::string sfzText(const std::string& title, const std::vector<SfzRegion>& regions) {
  std::string out = "// " + title + "\n";
  int note = kFirstNote;
  for (const auto& region : regions) {
    if (note > kLastNote) break;
    const Key& k = region.key;
    const auto line = [&](const char* opcode, const std::string& value) {
      out += std::string(opcode) + "=" + value + "\n";
    };
    out += "\n<region>\n";
    line("sample", region.file);
    line("key", std::to_string(note++)); // key, and the pitch at which it is as recorded
    if (k.level.value != 0) line("volume", figure(k.level.value));
    if (k.pan != 0) line("pan", figure(k.pan * 100));
    const double whole = std::round(k.tune.value);
    if (whole != 0) line("transpose", figure(whole));
    const double cents = (k.tune.value - whole) * 100 + k.fine.value;
    if (cents != 0) line("tune", figure(cents));
    const auto& e = k.envelope;
    if (e.attack.value > 0) line("ampeg_attack", figure(e.attack.value / 1000));
    if (e.hold.value > 0) line("ampeg_hold", figure(e.hold.value / 1000));
    if (e.decay.value > 0) line("ampeg_decay", figure(e.decay.value / 1000));
    if (e.sustain < 1) line("ampeg_sustain", figure(e.sustain * 100));
    const bool held = k.gate || region.loop;
    if (held) line("ampeg_release", figure(e.release.value / 1000));
    line("loop_mode", region.loop ? "loop_continuous" : held ? "no_loop" : "one_shot");
    if (region.loop) {
      line("loop_start", std::to_string(region.loop->first.value));
      line("loop_end", std::to_string(region.loop->second.value - 1)); // the last frame played
      line("loop_crossfade", figure(k.loop.crossfade.value / 1000));
    }
    if (k.choke != 0) {
      line("group", std::to_string(k.choke));
      line("off_by", std::to_string(k.choke));
    }
    const char* names[2][2] = {{"fil_type", "cutoff"}, {"fil2_type", "cutoff2"}};
    int filter = 0;
    for (const auto& [type, corner] : {std::pair{"hpf_2p", k.highPass}, {"lpf_2p", k.lowPass}})
      if (corner.value > 0) {
        line(names[filter][0], type);
        line(names[filter++][1], figure(corner.value));
      }
  }
  return out;
}

} // namespace tuvvo

#include "notes_player.h"

#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <fluidsynth.h>

namespace tuvvo::demo {

Buffer playNotes(const std::string& soundfont, const std::vector<Instrument>& instruments,
                 std::vector<Note> notes, double seconds) {
  fluid_settings_t* settings = new_fluid_settings();
  fluid_settings_setnum(settings, "synth.sample-rate", kRate);
  fluid_settings_setint(settings, "synth.reverb.active", 0);
  fluid_settings_setint(settings, "synth.chorus.active", 0);
  fluid_settings_setnum(settings, "synth.gain", 0.5);
  fluid_synth_t* synth = new_fluid_synth(settings);
  if (fluid_synth_sfload(synth, soundfont.c_str(), 1) == FLUID_FAILED) {
    std::fprintf(stderr, "%s cannot be read; install timgm6mb-soundfont.\n", soundfont.c_str());
    std::exit(1);
  }
  for (const auto& i : instruments) {
    if (i.channel != 9) fluid_synth_bank_select(synth, i.channel, unsigned(i.bank));
    fluid_synth_program_change(synth, i.channel, i.program);
    fluid_synth_cc(synth, i.channel, 7, int(127 * i.volume));
    fluid_synth_cc(synth, i.channel, 10, int(64 + 63 * i.pan));
  }
  struct Event {
    std::int64_t frame;
    bool on;
    Note note;
  };
  std::vector<Event> events;
  for (const auto& n : notes) {
    events.push_back({std::int64_t(n.atS * kRate), true, n});
    events.push_back({std::int64_t((n.atS + n.lengthS) * kRate), false, n});
  }
  std::stable_sort(events.begin(), events.end(), [](const Event& a, const Event& b) {
    return a.frame != b.frame ? a.frame < b.frame : a.on < b.on;
  });
  Buffer out(seconds);
  Samples left(out.size()), right(out.size());
  std::size_t at = 0;
  const auto render = [&](std::size_t until) {
    until = std::min(until, out.size());
    // The synthesiser starts notes on its own blocks of 64; single frames keep them exact.
    while (at < until) {
      const auto n = int(std::min<std::size_t>(until - at, 64));
      fluid_synth_write_float(synth, n, left.data() + at, 0, 1, right.data() + at, 0, 1);
      at += std::size_t(n);
    }
  };
  for (const auto& e : events) {
    render(std::size_t(std::max<std::int64_t>(0, e.frame)));
    if (e.on)
      fluid_synth_noteon(synth, e.note.channel, e.note.pitch,
                         std::clamp(int(127 * e.note.velocity), 1, 127));
    else
      fluid_synth_noteoff(synth, e.note.channel, e.note.pitch);
  }
  render(out.size());
  delete_fluid_synth(synth);
  delete_fluid_settings(settings);
  out.left.assign(left.begin(), left.end());
  out.right.assign(right.begin(), right.end());
  return out;
}

} // namespace tuvvo::demo

// Sounds: decoded, then listened to.
#include "audio/decode.h"
#include "fuzz.h"
#include "listen/analyse.h"

#include <cmath>

using namespace tuvvo;

int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  const fuzz::InputFile file(bytes, count);
  JobContext job;
  const auto decoded = decodeFile(file.path(), job, {}, Seconds(0.7));
  if (!decoded) {
    fuzz::mustHold(!decoded.error().what.empty(), "a message");
    return 0;
  }
  const Sound& sound = *decoded->sound;
  for (int c = 0; c < sound.channels(); ++c)
    for (float v : sound.channel(c))
      fuzz::mustHold(std::abs(v) <= 4 * kLoudestSample,
                     "samples are in range"); // folded ones add up
  const Analysis heard = analyse(sound, job);
  fuzz::mustHold(heard.duration.value >= 0, "a duration");
  return 0;
}

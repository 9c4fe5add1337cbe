#include "devices/rtaudio_device.h"

#include "devices/rate_bridge.h"
#include "play/score.h"

#include <RtAudio.h>
#include <atomic>
#include <chrono>
#include <cstdlib>

namespace tuvvo {

namespace {

RtAudio::Api apiOf(SoundServer server) {
  switch (server) {
  case SoundServer::Jack:
    return RtAudio::UNIX_JACK;
  case SoundServer::Pulse:
    return RtAudio::LINUX_PULSE;
  case SoundServer::Alsa:
    return RtAudio::LINUX_ALSA;
  }
  return RtAudio::UNSPECIFIED;
}

/// RtAudio 5 gives its error call no context, so what the back ends report is counted in one place.
std::atomic<int> writeErrors{0};

std::int64_t now() {
  return std::chrono::duration_cast<std::chrono::milliseconds>(
             std::chrono::steady_clock::now().time_since_epoch())
      .count();
}

class RtAudioDevice final : public SoundDevice {
public:
  RtAudioDevice(SoundServer server, FillSound fill)
      : m_server(server), m_fill(std::move(fill)), m_audio(apiOf(server)) {
    m_audio.showWarnings(false);
  }

  ~RtAudioDevice() override {
    try {
      if (m_audio.isStreamRunning()) m_audio.abortStream();
      if (m_audio.isStreamOpen()) m_audio.closeStream();
    } catch (const RtAudioError&) {
      // The server has gone already; there is nothing left to close.
    }
  }

  Result<void> open(const DeviceSettings& settings) {
    const std::string where = nameOf(m_server);
    try {
      const unsigned count = m_audio.getDeviceCount();
      if (count == 0)
        return Error{"No output was found", where, "Start the sound server or choose another."};
      RtAudio::StreamParameters out;
      out.deviceId = m_audio.getDefaultOutputDevice();
      out.nChannels = 2;
      bool found = settings.name.empty();
      for (unsigned i = 0; i < count; ++i) {
        const auto info = m_audio.getDeviceInfo(i);
        if (!info.probed || info.outputChannels < 2) continue;
        if (!found && info.name == settings.name) {
          out.deviceId = i;
          found = true;
        }
      }
      if (!found)
        return Error{"There is no output named \"" + settings.name + "\"", where,
                     "Choose another."};
      const auto info = m_audio.getDeviceInfo(out.deviceId);
      if (!info.probed || info.outputChannels < 2)
        return Error{"No stereo output was found", where,
                     "Start the sound server or choose another."};
      m_name = info.name;
      m_block = unsigned(settings.blockFrames);
      unsigned rate = unsigned(settings.rate.value);
      if (m_server == SoundServer::Jack && info.preferredSampleRate > 0)
        rate = info.preferredSampleRate;
      RtAudio::StreamOptions options;
      // Ahead of other programs where the system allows it; RtAudio goes without where it does not.
      options.flags = RTAUDIO_NONINTERLEAVED | RTAUDIO_SCHEDULE_REALTIME;
      options.priority = 70;
      options.streamName = "Tuvvo";
      // PulseAudio hands sound on from a thread of its own that may come late; two blocks are heard
      // as gaps on a busy machine.
      options.numberOfBuffers = m_server == SoundServer::Pulse ? 4 : 2;
      m_audio.openStream(&out, nullptr, RTAUDIO_FLOAT32, rate, &m_block, &RtAudioDevice::filled,
                         this, &options, [](RtAudioError::Type, const std::string& text) {
                           // PulseAudio's back end goes on asking after its server has ended.
                           if (text.find("write error") != std::string::npos) ++writeErrors;
                         });
      m_rate = Hertz(double(m_audio.getStreamSampleRate()));
      if (m_rate != kEngineRate)
        m_bridge = std::make_unique<RateBridge>(m_fill, kEngineRate, m_rate, kMostFrames);
      m_errorsAtStart = writeErrors;
      m_lastCall = now();
      m_audio.startStream();
    } catch (const RtAudioError& error) {
      return Error{"The output cannot be opened (" + error.getMessage() + ")", where,
                   "Check that the sound server runs and nothing else holds the device."};
    }
    return {};
  }

  [[nodiscard]] std::string name() const override { return nameOf(m_server) + ": " + m_name; }
  [[nodiscard]] bool simulated() const override { return false; }
  [[nodiscard]] Hertz rate() const override { return m_rate; }
  [[nodiscard]] int blockFrames() const override { return int(m_block); }
  [[nodiscard]] bool alive() const override {
    // A server that ended may leave the stream "running"; a device that asks for nothing is gone.
    return m_audio.isStreamOpen() && m_audio.isStreamRunning() && writeErrors == m_errorsAtStart &&
           now() - m_lastCall.load() < 1500;
  }

private:
  static constexpr int kMostFrames = 8192;

  static int filled(void* output, void*, unsigned frames, double, RtAudioStreamStatus, void* self) {
    auto* device = static_cast<RtAudioDevice*>(self);
    auto* left = static_cast<float*>(output);
    float* right = left + frames;
    device->m_lastCall.store(now(), std::memory_order_relaxed);
    if (!device->m_bridge) {
      device->m_fill(left, right, int(frames));
      return 0;
    }
    for (unsigned done = 0; done < frames; done += kMostFrames)
      device->m_bridge->fill(left + done, right + done,
                             int(std::min<unsigned>(kMostFrames, frames - done)));
    return 0;
  }

  SoundServer m_server;
  FillSound m_fill;
  mutable RtAudio m_audio;
  std::unique_ptr<RateBridge> m_bridge;
  std::string m_name;
  Hertz m_rate{48000};
  unsigned m_block = 0;
  std::atomic<std::int64_t> m_lastCall{0};
  int m_errorsAtStart = 0;
};

bool compiledIn(SoundServer server) {
  std::vector<RtAudio::Api> apis;
  RtAudio::getCompiledApi(apis);
  return std::find(apis.begin(), apis.end(), apiOf(server)) != apis.end();
}

/// JACK's library would start a server of its own; a sound device is not to be seized in passing.
void doNotStartServers() { setenv("JACK_NO_START_SERVER", "1", 0); }

} // namespace

std::string nameOf(SoundServer server) {
  switch (server) {
  case SoundServer::Jack:
    return "JACK";
  case SoundServer::Pulse:
    return "PulseAudio";
  case SoundServer::Alsa:
    break;
  }
  return "ALSA";
}

Result<std::unique_ptr<SoundDevice>> openRtAudio(SoundServer server, const DeviceSettings& settings,
                                                 FillSound fill) {
  doNotStartServers();
  if (!compiledIn(server))
    return Error{"This build cannot use it", nameOf(server), "Choose another output."};
  auto device = std::make_unique<RtAudioDevice>(server, std::move(fill));
  if (auto opened = device->open(settings); !opened) return opened.error();
  return std::unique_ptr<SoundDevice>(std::move(device));
}

std::vector<std::string> outputsOf(SoundServer server) {
  doNotStartServers();
  std::vector<std::string> names;
  if (!compiledIn(server)) return names;
  try {
    RtAudio audio(apiOf(server));
    audio.showWarnings(false);
    for (unsigned i = 0; i < audio.getDeviceCount(); ++i) {
      const auto info = audio.getDeviceInfo(i);
      if (info.probed && info.outputChannels >= 2) names.push_back(info.name);
    }
  } catch (const RtAudioError&) {
    return {};
  }
  return names;
}

} // namespace tuvvo

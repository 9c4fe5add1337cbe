#include "devices/rtaudio_device.h"

#include "base/convert.h"
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
  RtAudioDevice(SoundServer server, ProcessSound process)
      : m_server(server), m_process(std::move(process)), m_audio(apiOf(server)) {
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
      RtAudio::StreamParameters in;
      if (settings.input)
        if (auto chosen = chooseInput(settings, count, in); !chosen) return chosen;
      m_name = info.name;
      m_block = unsigned(settings.blockFrames);
      unsigned rate = toWhole<unsigned>(settings.rate.value);
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
      m_audio.openStream(&out, settings.input ? &in : nullptr, RTAUDIO_FLOAT32, rate, &m_block,
                         &RtAudioDevice::filled, this, &options,
                         [](RtAudioError::Type, const std::string& text) {
                           // PulseAudio's back end goes on asking after its server has ended.
                           if (text.find("write error") != std::string::npos) ++writeErrors;
                         });
      m_rate = Hertz(double(m_audio.getStreamSampleRate()));
      if (m_rate != kEngineRate)
        m_bridge = std::make_unique<RateBridge>(m_process, kEngineRate, m_rate, kMostFrames);
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
  [[nodiscard]] std::string inputName() const override {
    return m_inputs == 0 ? std::string() : nameOf(m_server) + ": " + m_inputName;
  }
  [[nodiscard]] std::int64_t reportedGaps() const override { return m_gaps.load(); }
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

  Result<void> chooseInput(const DeviceSettings& settings, unsigned count,
                           RtAudio::StreamParameters& in) {
    const std::string where = nameOf(m_server);
    in.deviceId = m_audio.getDefaultInputDevice();
    bool found = settings.inputName.empty();
    for (unsigned i = 0; i < count && !found; ++i) {
      const auto info = m_audio.getDeviceInfo(i);
      if (info.probed && info.inputChannels > 0 && info.name == settings.inputName) {
        in.deviceId = i;
        found = true;
      }
    }
    const auto info = m_audio.getDeviceInfo(in.deviceId);
    if (!found || !info.probed || info.inputChannels == 0)
      return Error{found ? "No input was found"
                         : "There is no input named \"" + settings.inputName + "\"",
                   where, "Plug it in, or choose another input."};
    const unsigned first = unsigned(std::max(0, settings.inputPair)) * 2;
    if (first >= info.inputChannels)
      return Error{"The input has no channels " + std::to_string(first + 1) + " and " +
                       std::to_string(first + 2),
                   info.name, "Choose another pair."};
    in.firstChannel = first;
    in.nChannels = std::min(2u, info.inputChannels - first);
    m_inputs = int(in.nChannels);
    m_inputName = info.name;
    return {};
  }

  static int filled(void* output, void* input, unsigned frames, double, RtAudioStreamStatus status,
                    void* self) {
    auto* device = static_cast<RtAudioDevice*>(self);
    device->m_lastCall.store(now(), std::memory_order_relaxed);
    if (status != 0) device->m_gaps.fetch_add(1, std::memory_order_relaxed);
    SoundBlock block;
    block.left = static_cast<float*>(output);
    block.right = block.left + frames;
    block.frames = int(frames);
    if (device->m_inputs > 0 && input) {
      block.inLeft = static_cast<const float*>(input);
      block.inRight = device->m_inputs > 1 ? block.inLeft + frames : block.inLeft;
    }
    if (!device->m_bridge) {
      device->m_process(block);
      return 0;
    }
    for (unsigned done = 0; done < frames; done += kMostFrames) {
      SoundBlock part = block;
      part.frames = int(std::min<unsigned>(kMostFrames, frames - done));
      for (float** out : {&part.left, &part.right}) *out += done;
      if (part.inLeft)
        for (const float** in : {&part.inLeft, &part.inRight}) *in += done;
      device->m_bridge->fill(part);
    }
    return 0;
  }

  SoundServer m_server;
  ProcessSound m_process;
  mutable RtAudio m_audio;
  std::unique_ptr<RateBridge> m_bridge;
  std::string m_name, m_inputName;
  int m_inputs = 0; ///< channels that come in
  std::atomic<std::int64_t> m_gaps{0};
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
                                                 ProcessSound process) {
  doNotStartServers();
  if (!compiledIn(server))
    return Error{"This build cannot use it", nameOf(server), "Choose another output."};
  auto device = std::make_unique<RtAudioDevice>(server, std::move(process));
  if (auto opened = device->open(settings); !opened) return opened.error();
  return std::unique_ptr<SoundDevice>(std::move(device));
}

std::vector<DeviceAbout> devicesOf(SoundServer server) {
  doNotStartServers();
  std::vector<DeviceAbout> devices;
  if (!compiledIn(server)) return devices;
  try {
    RtAudio audio(apiOf(server));
    audio.showWarnings(false);
    for (unsigned i = 0; i < audio.getDeviceCount(); ++i) {
      const auto info = audio.getDeviceInfo(i);
      if (!info.probed) continue;
      devices.push_back({info.name,
                         int(info.outputChannels),
                         int(info.inputChannels),
                         {info.sampleRates.begin(), info.sampleRates.end()}});
    }
  } catch (const RtAudioError&) {
    return {};
  }
  return devices;
}

} // namespace tuvvo

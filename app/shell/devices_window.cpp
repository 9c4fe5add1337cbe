#include "shell/devices_window.h"
#include "session/catch_service.h"
#include "session/player.h"

#include "base/convert.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/label.h"

#include <QFormLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

namespace {

constexpr std::array kRates{44'100, 48'000, 88'200, 96'000};
constexpr std::array kBlocks{32, 64, 128, 256, 512, 1024, 2048};
constexpr int kMostPairs = 16;

std::optional<SoundServer> serverOf(OutputChoice choice) {
  switch (choice) {
  case OutputChoice::Jack:
    return SoundServer::Jack;
  case OutputChoice::Pulse:
    return SoundServer::Pulse;
  case OutputChoice::Alsa:
    return SoundServer::Alsa;
  default:
    return std::nullopt;
  }
}

Label* line(QWidget* parent, theme::Type type) {
  auto* label = new Label(type, theme::Ink::Text, parent);
  label->setWraps(true);
  return label;
}

} // namespace

DevicesWindow::DevicesWindow(Player& player, CatchService& catching, QWidget* parent)
    : QWidget(parent, Qt::Window), m_player(player), m_catching(catching) {
  setWindowTitle(tr("Devices · Tuvvo"));
  m_server = combo(tr("Sound server"), tr("What Tuvvo plays and hears through"));
  m_server->addItems({tr("the first that answers"), tr("JACK"), tr("PulseAudio"), tr("ALSA"),
                      tr("simulated: nothing is heard")});
  m_output = combo(tr("Output"), tr("The device that plays"));
  m_rate = combo(tr("Rate"), tr("Frames a second. Tuvvo works at 48 kHz; another rate is bridged"));
  for (int rate : kRates) m_rate->addItem(tr("%1 kHz").arg(rate / 1000.0, 0, 'f', 1));
  m_block = combo(tr("Block"), tr("Small blocks answer sooner, large ones never stutter"));
  for (int block : kBlocks)
    m_block->addItem(tr("%1 frames, %2 ms").arg(block).arg(block / 48.0, 0, 'f', 1));
  m_input = combo(tr("Input"), tr("What comes in"));
  m_pair = combo(tr("Input pair"), tr("Which two channels of the input"));
  m_state = line(this, theme::Type::Strong);
  m_load = line(this, theme::Type::Body);
  m_latency = line(this, theme::Type::Body);
  m_caution = line(this, theme::Type::Small);
  m_caution->setText(
      tr("Turn monitors and headphones down before you plug anything in or measure. Check the "
         "input's switch: line, instrument or microphone. Start quiet: long loud sessions harm "
         "hearing, and Tuvvo cannot measure the level at your ear."));
  m_measure = new Button(tr("Measure latency"),
                         tr("Sends a short sound out and listens for it: connect an output to the "
                            "input with a cable"),
                         this);
  m_again =
      new Button(tr("Look again"), tr("Look for devices that were plugged in meanwhile"), this);
  m_close = new Button(tr("Close"), tr("Close this window (Escape)"), this);
  slicesInOrder();
  resize(px(520), px(500));
  connectChoices();
  connect(m_measure, &QAbstractButton::clicked, this, [this] { m_catching.measureLatency(); });
  connect(m_again, &QAbstractButton::clicked, this, &DevicesWindow::lookAround);
  connect(m_close, &QAbstractButton::clicked, this, &QWidget::close);
  connect(&player, &Player::soundOpened, this, &DevicesWindow::refresh);
  connect(&catching, &CatchService::changed, this, &DevicesWindow::refresh);
  connect(&m_timer, &QTimer::timeout, this, &DevicesWindow::refreshFigures);
}

void DevicesWindow::slicesInOrder() {
  auto* form = new QFormLayout;
  form->setSpacing(px(8));
  const auto row = [&](QWidget* field) {
    auto* label = new QLabel(field->accessibleName(), this);
    label->setFont(theme::font(theme::Type::Body));
    label->setBuddy(field);
    form->addRow(label, field);
  };
  for (Combo* each : {m_server, m_output, m_rate, m_block, m_input, m_pair}) row(each);
  auto* buttons = new QHBoxLayout;
  buttons->setSpacing(px(6));
  buttons->addWidget(m_measure);
  buttons->addWidget(m_again);
  buttons->addStretch(1);
  buttons->addWidget(m_close);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(px(20), px(16), px(20), px(16));
  column->setSpacing(px(10));
  column->addLayout(form);
  column->addWidget(m_state);
  column->addWidget(m_load);
  column->addWidget(m_latency);
  column->addStretch(1);
  column->addWidget(m_caution);
  column->addLayout(buttons);
}

void DevicesWindow::connectChoices() {
  connect(m_server, &QComboBox::activated, this, [this](int which) {
    choose([which](SoundChoice& c) {
      c.server = OutputChoice(which);
      c.output.clear();
      c.inputName.clear();
      c.inputPair = 0;
    });
    lookAround();
  });
  connect(m_output, &QComboBox::activated, this, [this](int which) {
    const std::string name = which > 0 ? m_output->itemText(which).toStdString() : std::string();
    choose([&](SoundChoice& c) { c.output = name; });
  });
  connect(m_rate, &QComboBox::activated, this, [this](int which) {
    choose([which](SoundChoice& c) { c.rate = Hertz(kRates[std::size_t(which)]); });
  });
  connect(m_block, &QComboBox::activated, this, [this](int which) {
    choose([which](SoundChoice& c) { c.blockFrames = kBlocks[std::size_t(which)]; });
  });
  connect(m_input, &QComboBox::activated, this, [this](int which) {
    choose([&](SoundChoice& c) {
      const auto plain = int(InputChoice::Cable);
      c.input = which <= plain ? InputChoice(which) : InputChoice::Device;
      c.inputName = which > plain ? m_inputs[std::size_t(which - plain - 1)] : std::string();
      c.inputPair = 0;
    });
  });
  connect(m_pair, &QComboBox::activated, this,
          [this](int which) { choose([which](SoundChoice& c) { c.inputPair = which; }); });
}

Combo* DevicesWindow::combo(const QString& name, const QString& tip) {
  auto* made = new Combo(name, tip, this);
  made->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  made->setMinimumContentsLength(26);
  return made;
}

void DevicesWindow::open() {
  lookAround();
  show();
  raise();
  activateWindow();
  m_timer.start(400);
}

void DevicesWindow::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape)
    close();
  else
    QWidget::keyPressEvent(event);
}

void DevicesWindow::choose(const std::function<void(SoundChoice&)>& change) {
  SoundChoice choice = m_player.liveSound().choice();
  change(choice);
  m_player.chooseSound(choice);
  refresh();
}

void DevicesWindow::lookAround() {
  const auto server = serverOf(m_player.liveSound().choice().server);
  m_devices = server ? devicesOf(*server) : std::vector<DeviceAbout>();
  const auto& choice = m_player.liveSound().choice();
  m_output->clear();
  m_output->addItem(tr("the system's own choice"));
  m_input->clear();
  m_input->addItems({tr("no input"), tr("the system's own choice"), tr("simulated line input"),
                     tr("simulated microphone"), tr("simulated cable from the output")});
  m_inputs.clear();
  for (const auto& device : m_devices) {
    if (device.outputs >= 2) m_output->addItem(QString::fromStdString(device.name));
    if (device.inputs > 0) {
      m_input->addItem(QString::fromStdString(device.name));
      m_inputs.push_back(device.name);
    }
  }
  // What was chosen and is not there now stays chosen: it may be plugged in again.
  const auto keep = [](Combo* box, const std::string& name) {
    if (name.empty()) return;
    const QString wanted = QString::fromStdString(name);
    if (box->findText(wanted) < 0) box->addItem(wanted);
  };
  keep(m_output, choice.output);
  if (!choice.inputName.empty() &&
      std::find(m_inputs.begin(), m_inputs.end(), choice.inputName) == m_inputs.end()) {
    m_input->addItem(QString::fromStdString(choice.inputName));
    m_inputs.push_back(choice.inputName);
  }
  refresh();
}

void DevicesWindow::refresh() {
  if (m_output->count() == 0) return;
  const auto& live = m_player.liveSound();
  const SoundChoice& choice = live.choice();
  m_server->setCurrentIndex(int(choice.server));
  m_output->setCurrentIndex(
      choice.output.empty() ? 0 : m_output->findText(QString::fromStdString(choice.output)));
  for (std::size_t i = 0; i < kRates.size(); ++i)
    if (kRates[i] == toWhole<int>(choice.rate.value)) m_rate->setCurrentIndex(int(i));
  for (std::size_t i = 0; i < kBlocks.size(); ++i)
    if (kBlocks[i] == choice.blockFrames) m_block->setCurrentIndex(int(i));
  int input = int(choice.input);
  for (std::size_t i = 0; i < m_inputs.size(); ++i)
    if (choice.input == InputChoice::Device && m_inputs[i] == choice.inputName)
      input = int(InputChoice::Cable) + 1 + int(i);
  m_input->setCurrentIndex(input);
  const bool simulated = choice.server == OutputChoice::Simulated;
  m_output->setEnabled(!simulated && choice.server != OutputChoice::Automatic);
  m_rate->setEnabled(!simulated && choice.server != OutputChoice::Jack);
  int channels = 2;
  for (const auto& device : m_devices)
    if (device.inputs > 0 && (choice.inputName.empty() || device.name == choice.inputName)) {
      channels = device.inputs;
      break;
    }
  m_pair->clear();
  for (int pair = 0; pair < std::clamp((channels + 1) / 2, 1, kMostPairs); ++pair)
    m_pair->addItem(tr("%1 and %2").arg(pair * 2 + 1).arg(pair * 2 + 2));
  m_pair->setCurrentIndex(std::min(choice.inputPair, m_pair->count() - 1));
  m_pair->setEnabled(choice.input == InputChoice::Device && m_pair->count() > 1);
  const auto& service = m_catching;
  m_measure->setEnabled(service.listens() && !service.measuring() && !service.catching());
  refreshFigures();
}

void DevicesWindow::refreshFigures() {
  if (!isVisible()) {
    m_timer.stop();
    return;
  }
  const auto& live = m_player.liveSound();
  const SoundDevice* device = live.device();
  if (!device) return;
  const QString in = QString::fromStdString(live.inputName());
  m_state->setText(tr("%1, %2 Hz, blocks of %3 (%4 ms). In: %5.")
                       .arg(QString::fromStdString(device->name()))
                       .arg(device->rate().value, 0, 'f', 0)
                       .arg(device->blockFrames())
                       .arg(device->blockFrames() / device->rate().value * 1000, 0, 'f', 1)
                       .arg(in.isEmpty() ? tr("nothing") : in));
  const DeviceLoad load = live.load();
  m_load->setText(tr("Load %1 %, at most %2 %. Late blocks of ours: %3 of %4. Gaps that the device "
                     "reports: %5.")
                      .arg(load.mean * 100, 0, 'f', 1)
                      .arg(load.most * 100, 0, 'f', 0)
                      .arg(load.late)
                      .arg(load.blocks)
                      .arg(load.reported));
  const auto& service = m_catching;
  const double ms = double(service.roundTrip()) / kEngineRate.value * 1000;
  m_latency->setText(service.measuring() ? tr("Listening for the sound that was sent…")
                     : service.measured()
                         ? tr("There and back: %1 ms, measured (%2 frames).")
                               .arg(ms, 0, 'f', 2)
                               .arg(service.roundTrip())
                         : tr("There and back: about %1 ms, not measured.").arg(ms, 0, 'f', 1));
}

} // namespace tuvvo

#include "catch/reel_row.h"

#include "session/clock_text.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/control_row.h"
#include "widgets/label.h"

#include <QFileDialog>

namespace tuvvo {

using theme::px;

namespace {

constexpr int kMovesMs = 60;

QString signedText(double v) {
  return QString::number(v, 'f', 0).replace(QLatin1Char('-'), QChar(0x2212));
}

} // namespace

ReelRow::ReelRow(Panel& host, ReelPlayer& reel, Player& player, QWidget* parent)
    : Panel(host, parent), m_reel(reel), m_player(player) {
  m_run = new Button(Sign::Play, tr("Start"),
                     tr("Start or stop what plays into the simulated input"), this);
  m_run->setCheckable(true);
  m_name = new Label(theme::Type::Strong, theme::Ink::Text, this);
  m_name->setLeast(80);
  m_place = new Label(theme::Type::Small, theme::Ink::Quiet, this);
  m_file = new Button(tr("Play a file…"), tr("Any sound file, as if from a player"), this);
  m_source = new Button(tr("Play the chosen source"),
                        tr("The source that is chosen in Crate or Cut, as if from a player"), this);
  m_speed = new Slide(QString(), {0.25, 4, 1, 0.05, 2, true}, {}, this);
  m_speed->setId(QStringLiteral("player.speed"));
  m_speed->setFormat([](double v) { return tr("speed × %1").arg(v, 0, 'f', 2); });
  m_speed->setToolTip(tr("Speed of the player: pitch goes with it"));
  m_level = new Slide(QString(), {-60, 12, -6, 1, 0}, {}, this);
  m_level->setId(QStringLiteral("player.level"));
  m_level->setFormat([](double v) { return tr("level %1 dB").arg(signedText(v)); });
  m_level->setToolTip(tr("How loud the player comes in"));
  m_hum = new Slide(QString(), {-100, -20, -100, 1, 0}, {}, this);
  m_hum->setId(QStringLiteral("player.hum"));
  m_hum->setToolTip(tr("Mains hum of 50 Hz, as from a bad cable"));
  m_hiss = new Slide(QString(), {-100, -20, -100, 1, 0}, {}, this);
  m_hiss->setId(QStringLiteral("player.hiss"));
  m_hiss->setToolTip(tr("Hiss, as from a tape"));
  m_hum->setFormat(
      [](double v) { return v <= -100 ? tr("no hum") : tr("hum %1 dB").arg(signedText(v)); });
  m_hiss->setFormat(
      [](double v) { return v <= -100 ? tr("no hiss") : tr("hiss %1 dB").arg(signedText(v)); });
  m_speed->setAccessibleName(tr("Speed of the player"));
  m_level->setAccessibleName(tr("Level of the player"));
  m_hum->setAccessibleName(tr("Hum"));
  m_hiss->setAccessibleName(tr("Hiss"));
  for (Slide* slide : {m_speed, m_level, m_hum, m_hiss}) slide->setFixedWidth(px(116));
  auto* row = ControlRow::in(this);
  using Stays = ControlRow::Stays;
  for (QWidget* w : std::initializer_list<QWidget*>{m_run, m_name, m_place})
    row->add(w, Stays::Always);
  row->addStretch();
  row->add(m_source);
  row->add(m_file);
  for (Slide* slide : {m_speed, m_level, m_hum, m_hiss}) row->add(slide, Stays::UnderMore);
  connect(m_run, &QAbstractButton::clicked, this, [this] {
    if (m_reel.runs())
      m_reel.stop();
    else
      m_reel.start();
  });
  connect(m_file, &QAbstractButton::clicked, this, &ReelRow::chooseFile);
  connect(m_source, &QAbstractButton::clicked, this, [this] {
    const Source* source = findSource(project(), selection().source);
    if (source && source->sound)
      m_reel.playSound(QString::fromStdString(source->name), source->sound);
  });
  const auto set = [this](auto change) {
    LineSettings settings = m_reel.settings();
    change(settings);
    m_reel.set(settings);
  };
  connect(m_speed, &Slide::changed, this,
          [set](double v, bool) { set([v](LineSettings& s) { s.speed = v; }); });
  connect(m_level, &Slide::changed, this,
          [set](double v, bool) { set([v](LineSettings& s) { s.level = Decibels(v); }); });
  connect(m_hum, &Slide::changed, this,
          [set](double v, bool) { set([v](LineSettings& s) { s.hum = Decibels(v); }); });
  connect(m_hiss, &Slide::changed, this,
          [set](double v, bool) { set([v](LineSettings& s) { s.hiss = Decibels(v); }); });
  connect(this, &Panel::selectionChanged, this, &ReelRow::refresh);
  connect(&player, &Player::soundOpened, this, &ReelRow::refresh);
  connect(&reel, &ReelPlayer::changed, this, &ReelRow::refresh);
  m_moves.setInterval(kMovesMs);
  m_moves.start();
  connect(&m_moves, &QTimer::timeout, this, [this] {
    if (!isVisible()) return;
    const auto& now = m_reel;
    m_place->setText(
        tr("%1 of %2").arg(clockText(now.place(), false), clockText(now.length(), false)));
  });
  refresh();
}

void ReelRow::chooseFile() {
  auto* dialog = new QFileDialog(this, tr("Play a file into the simulated line"));
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->setFileMode(QFileDialog::ExistingFile);
  connect(dialog, &QFileDialog::fileSelected, this,
          [this](const QString& path) { m_reel.playFile(path); });
  dialog->open();
}

void ReelRow::refresh() {
  const auto* input = m_player.liveSound().simulatedInput();
  const bool line = input && input->kind() == SimulatedInput::Kind::Line;
  setVisible(input && input->kind() != SimulatedInput::Kind::Cable);
  const auto& player = m_reel;
  m_run->setChecked(player.runs());
  m_run->setSign(player.runs() ? Sign::Stop : Sign::Play);
  m_run->setSaid(player.runs() ? tr("Stop it") : tr("Start it"), m_run->toolTip());
  m_name->setText(line ? (player.name().isEmpty() ? tr("Nothing on the player") : player.name())
                       : tr("Somebody in the ticket hall"));
  for (QWidget* w :
       std::initializer_list<QWidget*>{m_file, m_source, m_speed, m_level, m_hum, m_hiss})
    w->setVisible(line);
  const Source* source = findSource(project(), selection().source);
  m_source->setEnabled(source && source->sound);
  const LineSettings& settings = player.settings();
  m_speed->setValue(settings.speed);
  m_level->setValue(settings.level.value);
  m_hum->setValue(settings.hum.value);
  m_hiss->setValue(settings.hiss.value);
}

} // namespace tuvvo

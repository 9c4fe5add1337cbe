#include "cut/level_panel.h"

#include "widgets/button.h"
#include "widgets/control_row.h"
#include "widgets/label.h"

namespace tuvvo {

static_assert(kNormalPeakDb == -1 && kNormalLufs == -16, "the buttons say so");

LevelPanel::LevelPanel(Panel& host, LoudnessCache& loudness, QWidget* parent)
    : Panel(host, parent), m_loudness(loudness) {
  auto* row = ControlRow::in(this);
  m_by = new Combo(tr("What counts"),
                   tr("All of a slice, or its first 120 ms: what a drum is judged by"), this);
  m_by->addItems({tr("all of each"), tr("its attack")});
  m_median = new Button(tr("Match to the middle"),
                        tr("All as loud as the one in the middle (Ctrl+Shift+G)"), this);
  m_one = new Button(tr("Match to this one"), tr("All as loud as the chosen slice"), this);
  m_peak = new Button(tr("Peaks to −1 dB"),
                      tr("Each slice's loudest sample there; says nothing about loudness"), this);
  m_loud =
      new Button(tr("Loudness to −16 LUFS"),
                 tr("Each slice as loud as a beat's usual middle, as far as there is room"), this);
  m_said = new Label(theme::Type::Small, theme::Ink::Quiet, this);
  m_said->setLeast(80);
  row->add(m_by);
  row->add(m_median, ControlRow::Stays::Always);
  row->add(m_one);
  row->add(m_said, ControlRow::Stays::Always);
  for (Button* button : {m_peak, m_loud}) row->add(button, ControlRow::Stays::UnderMore);
  connect(m_by, &QComboBox::activated, this, &LevelPanel::refresh);
  connect(m_median, &QAbstractButton::clicked, this, &LevelPanel::matchToMiddle);
  connect(m_one, &QAbstractButton::clicked, this, [this] {
    apply(tr("Match levels to one"),
          withLevelsMatched(project(), keys(), {by(), selection().key}, m_loudness));
  });
  connect(m_peak, &QAbstractButton::clicked, this, [this] {
    apply(tr("Normalise peaks"), withPeaksNormalised(project(), keys(), m_loudness));
  });
  connect(m_loud, &QAbstractButton::clicked, this, [this] {
    apply(tr("Normalise loudness"), withLoudnessNormalised(project(), keys(), by(), m_loudness));
  });
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, [this] {
      if (isVisible()) refresh();
    });
}

void LevelPanel::matchToMiddle() {
  apply(tr("Match levels"), withLevelsMatched(project(), keys(), {by(), 0}, m_loudness));
}

void LevelPanel::showEvent(QShowEvent*) { refresh(); }

std::vector<Id> LevelPanel::keys() const {
  const auto chosen = chosenKeys();
  return chosen.size() > 1 ? chosen : slicesOf(project(), selection().source);
}

void LevelPanel::apply(const QString& name, const Project& next) {
  const auto spread = levelSpread(project(), keys(), by(), m_loudness);
  m_before = tr("before %1 LU · ").arg(spread.lu, 0, 'f', 1);
  const QString before = m_before; // the edit itself refreshes
  edit(name, next);
  m_before = before;
  m_after = projectPtr();
  refresh();
}

void LevelPanel::refresh() {
  const auto all = keys();
  const auto spread = levelSpread(project(), all, by(), m_loudness);
  for (Button* button : {m_median, m_peak, m_loud}) button->setEnabled(!all.empty());
  m_one->setEnabled(selection().cut != 0);
  if (m_after != projectPtr()) m_before.clear();
  const QString among = chosenKeys().size() > 1 ? tr("among %1 chosen").arg(all.size())
                                                : tr("among all %1").arg(all.size());
  m_said->setText(all.size() < 2
                      ? tr("there are no slices to compare")
                      : m_before + tr("%1 LU apart %2").arg(spread.lu, 0, 'f', 1).arg(among));
}

} // namespace tuvvo

#include "beat/hit_shaping.h"

#include "beat/hit_shapes.h"
#include "widgets/button.h"
#include "widgets/combo.h"
#include "widgets/more_panel.h"
#include "widgets/slide.h"

namespace tuvvo {

namespace {
constexpr int kWidth = 108; ///< three stand beside each other
} // namespace

HitShaping::HitShaping(Panel& panel, HitChoice& choice, Button* opens)
    : QObject(&panel), m_panel(panel), m_choice(choice), m_parent(opens->parentWidget()),
      m_more(new MorePanel(opens)) {
  opens->setOpens(true);
  connect(opens, &QAbstractButton::clicked, m_more, &MorePanel::toggle);
  m_velocities =
      new Combo(tr("Velocity shape"), tr("How hard they are played, one by one"), m_parent);
  m_velocities->addItems({tr("Velocities…"), tr("rise"), tr("fall"), tr("rise and fall"),
                          tr("fall and rise"), tr("hard and soft in turn")});
  const Shape shaped = [this](HitClip hits) {
    const int at = m_velocities->currentIndex();
    return at < 1 ? hits
                  : velocityShaped(std::move(hits), VelocityShape(at - 1), m_depth->value() / 100);
  };
  connect(m_velocities, &QComboBox::activated, this,
          [this, shaped] { lay(tr("Velocity shape"), shaped, true); });
  m_velocities->setFixedWidth(theme::px(kWidth));
  m_more->add(m_velocities);
  m_depth = slide(QStringLiteral("shape.depth"), tr("By"), 0, 95, 60, tr("%"),
                  tr("How much softer the softest is"), tr("Velocity shape"), shaped);
  m_strum = slide(
      QStringLiteral("shape.strum"), tr("Strum hits"), -60, 60, 0, tr("ms"),
      tr("From one note of a chord to the next; negative from the top"), tr("Strum"),
      [this](HitClip hits) { return strummed(std::move(hits), Milliseconds(m_strum->value())); });
  const Shape human = [this](HitClip hits) {
    return humanised(std::move(hits), Milliseconds(m_timing->value()), m_variation->value() / 100,
                     m_seed);
  };
  m_timing = slide(QStringLiteral("shape.humanise"), tr("Humanise once"), 0, 40, 0, tr("ms"),
                   tr("Each a little off by itself, once; the part's feel stays as it is"),
                   tr("Humanise hits"), human);
  m_variation =
      slide(QStringLiteral("shape.humanise-velocity"), tr("Vary velocities"), 0, 40, 0, tr("%"),
            tr("Each a little harder or softer by itself, once"), tr("Humanise hits"), human);
  m_width = slide(
      QStringLiteral("shape.pan"), tr("Left to right"), -100, 100, 0, tr("%"),
      tr("Panned across, from the first to the last; negative from the right"), tr("Pan across"),
      [this](HitClip hits) { return pannedAcross(std::move(hits), m_width->value() / 100); });
  button(tr("Even distances"), tr("From the first to the last, all as far apart"),
         [this] { lay(tr("Even distances"), evenlySpaced, true); });
  button(tr("Random order"),
         tr("What is played is dealt anew, places and velocities stay; again for another"), [this] {
           ++m_seed;
           lay(
               tr("Random order"),
               [this](HitClip hits) { return dealtAnew(std::move(hits), m_seed); }, true);
         });
  connect(&choice, &HitChoice::changed, this, [this] {
    if (!m_choice.shaping().isEmpty()) return;
    // Other hits: the figures begin anew.
    m_velocities->setCurrentIndex(0);
    for (Slide* each : {m_strum, m_timing, m_variation, m_width}) each->setValue(0);
  });
}

void HitShaping::lay(const QString& name, const Shape& shape, bool settled) {
  m_choice.shape(name, shape);
  if (settled) m_panel.settle();
}

Slide* HitShaping::slide(const QString& id, const QString& label, double low, double high,
                         double usual, const QString& unit, const QString& tip, const QString& name,
                         Shape shape) {
  auto* made = new Slide(label, {low, high, usual, 1, 0}, unit, m_parent);
  made->setId(id);
  made->setToolTip(tip);
  made->setFixedWidth(theme::px(kWidth));
  connect(
      made, &Slide::changed, this,
      [this, name, shape = std::move(shape)](double, bool settled) { lay(name, shape, settled); });
  m_more->add(made);
  return made;
}

void HitShaping::button(const QString& text, const QString& tip, const std::function<void()>& run) {
  auto* made = new Button(text, tip, m_parent);
  connect(made, &QAbstractButton::clicked, this, run);
  m_more->add(made);
}

} // namespace tuvvo

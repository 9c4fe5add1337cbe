// The controls of the panel: how a slice sounds, its edges, how it plays.
#include "cut/slice_panel.h"
#include "session/music_text.h"

#include "model/edits.h"
#include "parts/choke_choice.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/tick.h"

namespace tuvvo {

using theme::px;

namespace {

/// A filter that is not there stands at its far end.
constexpr double kLowest = 20, kHighest = 20'000;

QString cornerText(double hz, bool high) {
  if (high ? hz <= kLowest : hz >= kHighest) return SlicePanel::tr("off");
  return hz < 1000 ? SlicePanel::tr("%1 Hz").arg(hz, 0, 'f', 0)
                   : SlicePanel::tr("%1 kHz").arg(hz / 1000, 0, 'f', 1);
}

} // namespace

Slide* SlicePanel::keySlide(ControlRow* page, const QString& id, const QString& name,
                            const Slide::Range& range, const QString& unit,
                            std::function<double(const Key&)> get,
                            std::function<void(Key&, double)> set, Stays stays) {
  auto* slide = new Slide(name, range, unit, page);
  slide->setId(id);
  page->add(slide, stays);
  connect(slide, &Slide::changed, this, [this, name, set = std::move(set)](double v, bool settled) {
    changeKeys(tr("Slice: %1").arg(name.toLower()), [&](Key& key) { set(key, v); });
    if (settled) settle();
  });
  m_settings.push_back(
      {slide, [get = std::move(get)](const Key& key, const Cut&) { return get(key); }});
  return slide;
}

Slide* SlicePanel::cutSlide(ControlRow* page, const QString& id, const QString& name,
                            const Slide::Range& range, std::function<Milliseconds&(Cut&)> value) {
  auto* slide = new Slide(name, range, tr("ms"), page);
  slide->setId(id);
  page->add(slide);
  connect(slide, &Slide::changed, this, [this, name, value](double v, bool settled) {
    const auto selection = this->selection();
    edit(tr("Slice: %1").arg(name.toLower()),
         withSourceChanged(project(), selection.source,
                           [&](Source& s) {
                             for (auto& cut : s.cuts)
                               if (cut.id == selection.cut || selection.alsoCuts.contains(cut.id))
                                 value(cut) = Milliseconds(v);
                           }),
         name);
    if (settled) settle();
  });
  m_settings.push_back({slide, [value](const Key&, const Cut& cut) {
                          Cut copy = cut;
                          return value(copy).value;
                        }});
  return slide;
}

QWidget* SlicePanel::makeSound() {
  auto* page = new ControlRow(this);
  keySlide(
      page, QStringLiteral("slice.level"), tr("Level"), {-60, 12, 0, 0.1, 1}, tr("dB"),
      [](const Key& k) { return k.level.value; }, [](Key& k, double v) { k.level = Decibels(v); });
  keySlide(
      page, QStringLiteral("slice.repitch"), tr("Repitch"), {-24, 24, 0, 1, 0}, tr("st"),
      [](const Key& k) { return k.tune.value; }, [](Key& k, double v) { k.tune = Semitones(v); });
  keySlide(
      page, QStringLiteral("slice.low-pass"), tr("Low-pass"),
      {kLowest, kHighest, kHighest, 1, 0, true}, tr("Hz"),
      [](const Key& k) { return k.lowPass.value > 0 ? k.lowPass.value : kHighest; },
      [](Key& k, double v) { k.lowPass = Hertz(v >= kHighest ? 0 : v); })
      ->setFormat([](double v) { return cornerText(v, false); });
  keySlide(
      page, QStringLiteral("slice.high-pass"), tr("High-pass"),
      {kLowest, kHighest, kLowest, 1, 0, true}, tr("Hz"),
      [](const Key& k) { return std::max(kLowest, k.highPass.value); },
      [](Key& k, double v) { k.highPass = Hertz(v <= kLowest ? 0 : v); })
      ->setFormat([](double v) { return cornerText(v, true); });
  m_reverse = new Button(Sign::Reverse, tr("Reverse"), tr("Last to first (Ctrl+Shift+R)"), page);
  m_reverse->setCheckable(true);
  page->add(m_reverse);
  connect(m_reverse, &QAbstractButton::clicked, this, &SlicePanel::reverse);
  keySlide(
      page, QStringLiteral("slice.pan"), tr("Pan"), {-100, 100, 0, 1, 0}, QString(),
      [](const Key& k) { return k.pan * 100; }, [](Key& k, double v) { k.pan = v / 100; },
      Stays::UnderMore);
  keySlide(
      page, QStringLiteral("slice.fine"), tr("Fine"), {-100, 100, 0, 1, 0}, tr("ct"),
      [](const Key& k) { return k.fine.value; }, [](Key& k, double v) { k.fine = Cents(v); },
      Stays::UnderMore);
  return page;
}

QWidget* SlicePanel::makeEdges() {
  auto* page = new ControlRow(this);
  const auto ms = [&](Stays stays, const QString& id, const QString& name,
                      const Slide::Range& range, const std::function<Milliseconds&(Key&)>& value) {
    keySlide(
        page, id, name, range, tr("ms"),
        [value](const Key& k) {
          Key copy = k;
          return value(copy).value;
        },
        [value](Key& k, double v) { value(k) = Milliseconds(v); }, stays);
  };
  ms(
      Stays::IfThereIsRoom, QStringLiteral("slice.start-later"), tr("Start later"),
      {0, 500, 0, 1, 0}, [](Key & k) -> auto& { return k.trimStart; });
  ms(
      Stays::IfThereIsRoom, QStringLiteral("slice.end-sooner"), tr("End sooner"),
      {0, 2000, 0, 1, 0}, [](Key & k) -> auto& { return k.trimEnd; });
  cutSlide(
      page, QStringLiteral("slice.fade-in"), tr("Fade in"), {0, 50, 1, 0.5, 1},
      [](Cut & c) -> auto& { return c.fadeIn; });
  cutSlide(
      page, QStringLiteral("slice.fade-out"), tr("Fade out"), {0, 50, 4, 0.5, 1},
      [](Cut & c) -> auto& { return c.fadeOut; });
  ms(
      Stays::UnderMore, QStringLiteral("slice.attack"), tr("Attack"), {0, 500, 0, 1, 0},
      [](Key & k) -> auto& { return k.envelope.attack; });
  ms(
      Stays::UnderMore, QStringLiteral("slice.hold"), tr("Hold"), {0, 2000, 0, 5, 0},
      [](Key & k) -> auto& { return k.envelope.hold; });
  // A decay to nothing; how much is left of it is the key's own envelope on the Keys stage.
  keySlide(
      page, QStringLiteral("slice.decay"), tr("Decay"), {0, 4000, 0, 5, 0}, tr("ms"),
      [](const Key& k) { return k.envelope.decay.value; },
      [](Key& k, double v) {
        k.envelope.decay = Milliseconds(v);
        k.envelope.sustain = v > 0 ? 0 : 1;
      },
      Stays::UnderMore)
      ->setFormat([](double v) { return v <= 0 ? tr("none") : tr("%1 ms").arg(v, 0, 'f', 0); });
  return page;
}

QWidget* SlicePanel::makePlaying() {
  auto* page = new ControlRow(this);
  m_held = new Tick(tr("Held"), tr("Sounds while held, or for a hit's length; else to its own end"),
                    page);
  m_loop = new Tick(tr("Loop"), tr("Goes round while it is held"), page);
  page->add(m_held);
  page->add(m_loop);
  const auto share = [&](const QString& id, const QString& name, double usual,
                         const std::function<double&(SliceLoop&)>& v) {
    keySlide(
        page, id, name, {0, 100, usual, 1, 0}, tr("%"),
        [v](const Key& k) {
          SliceLoop copy = k.loop;
          return v(copy) * 100;
        },
        [v](Key& k, double value) { v(k.loop) = value / 100; });
  };
  share(
      QStringLiteral("slice.loop-from"), tr("Loop from"), 25,
      [](SliceLoop & l) -> auto& { return l.from; });
  share(
      QStringLiteral("slice.loop-to"), tr("Loop to"), 100,
      [](SliceLoop & l) -> auto& { return l.to; });
  keySlide(
      page, QStringLiteral("slice.loop-crossfade"), tr("Crossfade"), {1, 500, 10, 1, 0}, tr("ms"),
      [](const Key& k) { return k.loop.crossfade.value; },
      [](Key& k, double v) { k.loop.crossfade = Milliseconds(v); });
  m_choke = chokeChoice(tr("Slices with the same letter cut each other off"), page);
  m_method = new Combo(tr("Method of the slice"),
                       tr("How this slice comes to the beat, whatever its source does"), page);
  m_method->addItems({tr("as its source"), tr("repitched"), tr("stretched"), tr("re-spaced")});
  m_row = new Combo(tr("Row of the deck"), tr("Its role, and which keys play it"), page);
  m_row->addItems(rowTexts());
  page->add(m_choke);
  page->add(m_method, Stays::UnderMore);
  page->add(m_row, Stays::UnderMore);
  connect(m_loop, &QAbstractButton::clicked, this,
          [this](bool on) { changeKeys(tr("Loop"), [on](Key& k) { k.loop.on = on; }); });
  connect(m_held, &QAbstractButton::clicked, this,
          [this](bool on) { changeKeys(tr("Held or to its end"), [on](Key& k) { k.gate = on; }); });
  connect(m_choke, &QComboBox::activated, this,
          [this](int group) { changeKeys(tr("Choke"), [group](Key& k) { k.choke = group; }); });
  connect(m_method, &QComboBox::activated, this, [this](int i) {
    changeKeys(tr("Method of a slice"),
               [i](Key& k) { k.method = i == 0 ? std::nullopt : std::optional(FitMethod(i - 1)); });
  });
  connect(m_row, &QComboBox::activated, this, [this](int i) {
    Project next = project();
    bool full = false;
    for (Id key : chosenKeys()) {
      next = withRole(std::move(next), key, Row(i));
      full = full || findKey(next, key)->row != Row(i);
    }
    edit(tr("Move to another row"), next);
    if (full) emit message(tr("That row has no free key left."), true);
    refresh();
  });
  return page;
}

} // namespace tuvvo

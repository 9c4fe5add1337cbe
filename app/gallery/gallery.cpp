#include "gallery/gallery.h"

#include "widgets/button.h"
#include "widgets/combo.h"
#include "widgets/empty_place.h"
#include "widgets/segments.h"
#include "widgets/signs.h"
#include "widgets/slide.h"
#include "widgets/stage_head.h"
#include "widgets/tabs.h"
#include "widgets/tick.h"

#include <QGridLayout>
#include <QStackedWidget>
#include <functional>

namespace tuvvo {

using theme::px;

namespace {

/// A page of rows, each under what it shows.
class Page : public QWidget {
public:
  Page() : m_column(new QVBoxLayout(this)) {
    m_column->setSpacing(px(8));
    m_column->addStretch();
  }
  /// @param wide  as wide as the page; else as wide as it wants to be
  void add(const QString& says, QWidget* shown, bool wide = false) {
    auto* label = new Label(theme::Type::Small, theme::Ink::Quiet, this);
    label->setText(says);
    m_column->insertWidget(m_column->count() - 1, label);
    m_column->insertWidget(m_column->count() - 1, shown, 0, wide ? Qt::Alignment() : Qt::AlignLeft);
    m_column->insertSpacing(m_column->count() - 1, px(12));
  }

private:
  QVBoxLayout* m_column;
};

QWidget* rowOf(const QList<QWidget*>& widgets) {
  auto* row = new QWidget;
  auto* layout = new QHBoxLayout(row);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(px(8));
  for (auto* widget : widgets) layout->addWidget(widget, 0, Qt::AlignBottom);
  return row;
}

template <class T> T* off(T* widget) {
  widget->setEnabled(false);
  return widget;
}
template <class T> T* on(T* widget) {
  widget->setCheckable(true);
  widget->setChecked(true);
  return widget;
}
Button* weighed(Button* button, Button::Weight weight) {
  button->setWeight(weight);
  return button;
}

QWidget* buttons() {
  auto* page = new Page;
  page->add(Gallery::tr("Does something"),
            rowOf({new Button(Gallery::tr("Play from here")),
                   new Button(Sign::Hear, Gallery::tr("Play in the beat"), {}, nullptr),
                   on(new Button(Sign::Hear, Gallery::tr("Plays now"), {}, nullptr)),
                   off(new Button(Sign::Cut, Gallery::tr("Cannot be done"), {}, nullptr))}));
  page->add(Gallery::tr("The next step: at most one of them"),
            rowOf({weighed(new Button(Sign::Cut, Gallery::tr("Cut it"), {}, nullptr),
                           Button::Weight::Next),
                   off(weighed(new Button(Gallery::tr("Not yet")), Button::Weight::Next))}));
  page->add(Gallery::tr("Takes away or records"),
            rowOf({weighed(new Button(Sign::Remove, Gallery::tr("Remove"), {}, nullptr),
                           Button::Weight::Danger),
                   weighed(new Button(Sign::Record, Gallery::tr("Record"), {}, nullptr),
                           Button::Weight::Danger)}));
  auto* opens = new Button(Gallery::tr("Start from"));
  opens->setOpens(true);
  page->add(Gallery::tr("Opens a menu; opens a window"),
            rowOf({opens, new Button(Gallery::tr("Add sounds…"))}));
  return page;
}

QWidget* choices() {
  auto* page = new Page;
  auto* tabs = new Tabs(Gallery::tr("Views"));
  for (const auto& name : {Gallery::tr("Feel"), Gallery::tr("Hits"), Gallery::tr("Break")})
    tabs->add(name, {});
  tabs->choose(1);
  page->add(Gallery::tr("Views of one place"), tabs);
  auto* ways = new Segments(Gallery::tr("Cut by"));
  for (const auto& name : {Gallery::tr("Hits"), Gallery::tr("Beats"), Gallery::tr("Bars"),
                           Gallery::tr("Equal"), Gallery::tr("Hand")})
    ways->add(name, {});
  ways->choose(1);
  page->add(Gallery::tr("One of several ways"), ways);
  auto* kinds = new Segments(Gallery::tr("Hits"), Segments::Picks::Several);
  kinds->add(HitClass::Kick, Gallery::tr("kicks"), {});
  kinds->add(HitClass::Snare, Gallery::tr("snares"), {});
  kinds->add(HitClass::Hat, Gallery::tr("hats"), {});
  kinds->add(HitClass::Other, Gallery::tr("other"), {});
  kinds->setOn(0, true);
  kinds->setOn(1, true);
  page->add(Gallery::tr("Any of several kinds"), kinds);
  page->add(Gallery::tr("On or off"),
            rowOf({new Tick(Gallery::tr("End at decay")), on(new Tick(Gallery::tr("Loop"))),
                   off(new Tick(Gallery::tr("Cannot be chosen"))),
                   off(on(new Tick(Gallery::tr("Is on and stays"))))}));
  auto* combo = new Combo(Gallery::tr("Order"));
  combo->addItems({Gallery::tr("Nearest first"), Gallery::tr("By name")});
  auto* closed = new Combo(Gallery::tr("Order"));
  closed->addItem(Gallery::tr("Nothing to choose"));
  page->add(Gallery::tr("One of many"), rowOf({combo, off(closed)}));
  return page;
}

QWidget* figures() {
  auto* page = new Page;
  auto* level = new Slide(Gallery::tr("Level"), {-40, 12, 0, 0.1, 1}, QStringLiteral("dB"));
  auto* pan = new Slide(Gallery::tr("Repitch"), {-24, 24, 0, 1, 0}, QStringLiteral("st"));
  pan->setValue(-5);
  auto* low =
      new Slide(Gallery::tr("Low-pass"), {20, 20'000, 20'000, 1, 0, true}, QStringLiteral("Hz"));
  low->setValue(2400);
  page->add(
      Gallery::tr("Figures"),
      rowOf({level, pan, low,
             off(new Slide(Gallery::tr("Width"), {0, 200, 100, 1, 0}, QStringLiteral("%")))}));
  auto* row = new ControlRow;
  for (const auto& name : {Gallery::tr("Level"), Gallery::tr("Repitch"), Gallery::tr("Low-pass"),
                           Gallery::tr("High-pass"), Gallery::tr("Attack"), Gallery::tr("Decay")})
    row->add(new Slide(name, {0, 100, 50, 1, 0}, QStringLiteral("%")));
  row->add(new Tick(Gallery::tr("Loop")), ControlRow::Stays::UnderMore);
  row->add(new Button(Sign::Reverse, Gallery::tr("Reverse"), {}, nullptr));
  row->setMaximumWidth(px(560));
  page->add(Gallery::tr("A row with less room than it wants"), row, true);
  return page;
}

QWidget* words() {
  auto* page = new Page;
  auto* head = new StageHead;
  auto* tabs = head->addTabs(Gallery::tr("Views"));
  tabs->add(Gallery::tr("This beat"), {});
  tabs->add(Gallery::tr("Everything"), {});
  head->say(Gallery::tr("lantern row"), Gallery::tr("loop, 4 bars, 91.78 BPM, C minor"));
  head->addStretch();
  head->add(new Button(Sign::Hear, Gallery::tr("Play in the beat"), {}, nullptr));
  head->addNext(Gallery::tr("Cut it"), {})->setSign(Sign::Cut);
  page->add(Gallery::tr("The first line of a stage"), head, true);
  for (const auto& [type, says] :
       {std::pair{theme::Type::Title, Gallery::tr("Title")},
        {theme::Type::Body, Gallery::tr("What controls and sentences are written in")},
        {theme::Type::Small, Gallery::tr("Facts beside something")}}) {
    auto* label = new Label(type);
    label->setText(says);
    page->add(Gallery::tr("Text"), label);
  }
  auto* empty = new EmptyPlace;
  empty->say(Gallery::tr("This pattern is empty"),
             Gallery::tr("Hits stand here, a ribbon for each part."));
  empty->addWay(Sign::Pin, Gallery::tr("Set hits"), {});
  empty->addWay(Sign::Record, Gallery::tr("Play it in"), {});
  empty->addWay(Sign::Break, Gallery::tr("Start from a groove"), {});
  page->add(Gallery::tr("A place where there is nothing yet"), empty, true);
  return page;
}

class SignSheet : public QWidget {
protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    const int count = int(Sign::Count) - 1, across = std::max(1, width() / px(104));
    for (int i = 0; i < count; ++i) {
      const int row = i / across, column = i % across;
      const QRectF cell(px(8) + px(104) * column, px(76) * row, px(104), px(76));
      drawSign(p, Sign(i + 1), QRectF(cell.left(), cell.top(), px(32), px(32)),
               theme::colours().text);
      drawSign(p, Sign(i + 1), QRectF(cell.left() + px(44), cell.top() + px(8), px(16), px(16)),
               theme::colours().brass);
      theme::drawText(p, QRectF(cell.left(), cell.top() + px(36), px(100), px(20)), Qt::AlignLeft,
                      QLatin1String(fileOf(Sign(i + 1))), theme::Type::Small,
                      theme::colours().quiet);
    }
  }
};

/// What pictures are drawn with: marks that mean the same everywhere, and the inks on each ground,
/// as they are and stepping back.
class MarkSheet : public QWidget {
protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const auto& c = theme::colours();
    int column = 0;
    const auto cell = [&](const QString& says, const std::function<void(QPointF)>& draw) {
      const double x = px(8) + px(104) * column++;
      draw(QPointF(x + px(10), px(16)));
      theme::drawText(p, QRectF(x, px(32), px(100), px(20)), Qt::AlignLeft, says,
                      theme::Type::Small, c.quiet);
    };
    const auto hit = [&](const QString& says, HitClass kind) {
      cell(says, [&, kind](QPointF at) { drawHitSign(p, kind, at, px(6), c.text); });
    };
    hit(Gallery::tr("kick"), HitClass::Kick);
    hit(Gallery::tr("snare"), HitClass::Snare);
    hit(Gallery::tr("hat"), HitClass::Hat);
    hit(Gallery::tr("other hit"), HitClass::Other);
    const auto fit = [&](const QString& says, double cost) {
      cell(says, [&, cost](QPointF at) { drawFitSign(p, at, cost); });
    };
    fit(Gallery::tr("fits"), 0);
    fit(Gallery::tr("some change"), 4);
    fit(Gallery::tr("far off"), 20);
    cell(Gallery::tr("treated"), [&](QPointF at) { drawTreatedSign(p, at, c.lilac); });
    cell(Gallery::tr("sounds now"), [&](QPointF at) { drawSoundingSign(p, at); });
    double y = px(72);
    for (const auto& [ground, name] : {std::pair{c.ground, Gallery::tr("ground")},
                                       {c.panel, Gallery::tr("panel")},
                                       {c.raised, Gallery::tr("raised")}}) {
      p.setPen(Qt::NoPen);
      p.setBrush(ground);
      p.drawRoundedRect(QRectF(px(8), y, width() - px(16), px(64)), 6, 6);
      theme::drawText(p, QRectF(px(20), y, px(80), px(64)), Qt::AlignVCenter | Qt::AlignLeft, name,
                      theme::Type::Small, c.quiet);
      double x = px(104);
      for (const QColor& ink : {c.text, c.quiet, c.brass, c.mint, c.coral, c.slate, c.lilac}) {
        for (double strength : {0.0, 0.5, 1.0}) {
          p.setPen(Qt::NoPen);
          p.setBrush(theme::markOf(ink, ground, strength));
          p.drawRoundedRect(QRectF(x, y + px(18), px(28), px(28)), 4, 4);
          x += px(34);
        }
        x += px(14);
      }
      y += px(76);
    }
  }
};

} // namespace

Gallery::Gallery() : m_tabs(new Tabs(tr("Pages"), this)), m_pages(new QStackedWidget(this)) {
  setWindowTitle(QStringLiteral("Tuvvo: controls"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(px(24), px(16), px(24), px(16));
  column->setSpacing(px(16));
  column->addWidget(m_tabs);
  column->addWidget(m_pages, 1);
  addPage(tr("Buttons"), buttons());
  addPage(tr("Choices"), choices());
  addPage(tr("Figures"), figures());
  addPage(tr("Words"), words());
  addPage(tr("Signs"), new SignSheet);
  addPage(tr("Marks"), new MarkSheet);
  connect(m_tabs, &Tabs::wanted, this, [this](int place) {
    m_tabs->choose(place);
    m_pages->setCurrentIndex(place);
  });
  resize(1000, 700);
}

bool Gallery::showPage(const QString& name) {
  for (int i = 0; i < m_tabs->count(); ++i)
    if (m_tabs->tab(i)->text().toLower() == name.toLower()) {
      emit m_tabs->wanted(i);
      return true;
    }
  return false;
}

void Gallery::addPage(const QString& name, QWidget* page) {
  m_tabs->add(name, {});
  m_pages->addWidget(page);
}

} // namespace tuvvo

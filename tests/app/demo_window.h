// The real window on the demo, for tests that go through its controls.
#pragma once

#include "beat/alike_strip.h"
#include "beat/beat_stage.h"
#include "beat/ribbons_view.h"
#include "choose.h"
#include "crate/crate_stage.h"
#include "crate/reach_map.h"
#include "crate/search_line.h"
#include "crate/source_card.h"
#include "crate/source_list.h"
#include "cut/cut_stage.h"
#include "cut/drift_line.h"
#include "cut/fit.h"
#include "cut/fit_panel.h"
#include "cut/wave_view.h"
#include "keys/keys_stage.h"
#include "print/print_stage.h"
#include "shell/deck.h"
#include "shell/finder.h"
#include "shell/header.h"
#include "shell/main_window.h"
#include "shell/notes_drawer.h"
#include "shell/rail.h"
#include "song/song_stage.h"
#include "song/song_view.h"
#include "song/timeline.h"
#include "support.h"
#include "theme/theme.h"
#include "widgets/label.h"
#include "widgets/more_panel.h"
#include "widgets/small_wave.h"

#include <QApplication>
#include <QComboBox>
#include <QDir>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QPainter>
#include <QSignalSpy>
#include <QTimer>
#include <QtTest>

namespace tuvvo::test {

/// Opens the demo in the window anew for every test.
class DemoWindow {
protected:
  QTemporaryDir m_dir;
  std::unique_ptr<Services> m_services;
  std::unique_ptr<MainWindow> m_window;

  const Project& project() { return m_services->document.project(); }
  void settle() {
    for (int i = 0; i < 3; ++i) {
      m_services->wait();
      QCoreApplication::processEvents();
    }
  }
  template <class T> T* find(Stage stage) { return m_window->view(stage).findChild<T*>(); }
  QAbstractButton* button(const QWidget& in, const QString& text) {
    QAbstractButton* hidden = nullptr; // one that is shown comes before one that is not
    for (auto* each : in.findChildren<QAbstractButton*>())
      if (each->text() == text) {
        if (each->isVisible()) return each;
        if (!hidden) hidden = each;
      }
    if (hidden) return hidden;
    for (auto* each : in.findChildren<QAbstractButton*>()) qWarning() << each->text();
    qFatal("no button \"%s\"", qPrintable(text));
  }
  Slide* slide(const QWidget& in, const QString& name) {
    for (auto* each : in.findChildren<Slide*>())
      if (each->accessibleName() == name) return each;
    for (auto* each : in.findChildren<Slide*>()) qWarning() << each->accessibleName();
    qFatal("no slide \"%s\"", qPrintable(name));
  }
  /// A control by its accessible name.
  template <class T> T* named(const QWidget& in, const QString& name) {
    for (auto* each : in.findChildren<T*>())
      if (each->accessibleName() == name) return each;
    qFatal("no control \"%s\"", qPrintable(name));
  }
  /// Runs a command of a stage, or an entry of one of its menus.
  void command(const QWidget& in, const QString& text) {
    for (auto* each : in.findChildren<QAction*>())
      if (each->text().section(QLatin1Char('\t'), 0, 0) == text) {
        QVERIFY(each->isEnabled());
        each->trigger();
        QCoreApplication::processEvents();
        return;
      }
    qFatal("no command \"%s\"", qPrintable(text));
  }
  void click(QWidget* widget, QPointF at) {
    QTest::mouseClick(widget, Qt::LeftButton, {}, at.toPoint());
    QCoreApplication::processEvents();
  }
  /// As a person presses it; what lies under More is opened first.
  void press(QAbstractButton* c) {
    QCoreApplication::processEvents(); // rows lie where they will be clicked
    MorePanel* under = nullptr;
    for (QWidget* up = c; up && !under; up = up->parentWidget())
      under = qobject_cast<MorePanel*>(up);
    if (under && !under->isVisible()) under->toggle();
    QVERIFY2(c->isEnabled() && c->isVisible(), qPrintable(c->text()));
    QTest::mouseClick(c, Qt::LeftButton);
    QCoreApplication::processEvents();
    if (under && under->isVisible()) under->toggle();
  }
  Id sourceNamed(const char* name) {
    for (const auto& s : project().sources)
      if (s->name == name) return s->id;
    qFatal("no source %s", name);
  }
  const Source* current() { return findSource(project(), m_services->document.selection().source); }
  /// How many pixels of a widget are of a colour, or within a little of it.
  static int pixelsOf(QWidget* widget, const QColor& wanted) {
    const QImage image = widget->grab().toImage().convertToFormat(QImage::Format_RGB32);
    int found = 0;
    for (int y = 0; y < image.height(); ++y)
      for (int x = 0; x < image.width(); ++x) {
        const QColor c = image.pixelColor(x, y);
        if (std::abs(c.red() - wanted.red()) + std::abs(c.green() - wanted.green()) +
                std::abs(c.blue() - wanted.blue()) <
            24)
          ++found;
      }
    return found;
  }

  void prepare() {
    for (const char* place : {"XDG_DATA_HOME", "XDG_CONFIG_HOME"})
      qputenv(place, m_dir.path().toUtf8());
    theme::apply(*qApp, false, 1.0);
  }
  bool openDemo() {
    m_services = std::make_unique<Services>();
    m_window = std::make_unique<MainWindow>(*m_services);
    m_services->files.startDemo();
    m_services->player.openSound({OutputChoice::Simulated});
    m_window->show();
    m_window->activateWindow();
    if (!QTest::qWaitForWindowActive(m_window.get())) return false;
    settle();
    return true;
  }
  void closeDemo() {
    m_window.reset();
    m_services.reset();
  }
};

} // namespace tuvvo::test

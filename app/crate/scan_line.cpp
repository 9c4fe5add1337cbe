#include "crate/scan_line.h"

#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/combo.h"
#include "widgets/label.h"
#include "widgets/tick.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QListWidget>
#include <QMenu>
#include <QPainter>

namespace tuvvo {

using theme::px;

ScanLine::ScanLine(Panel& host, CrateService& crate, QWidget* parent)
    : Panel(host, parent), m_crate(crate) {
  m_text = new Label(theme::Type::Small, theme::Ink::Text, this);
  m_text->setLeast(60);
  m_folders = new Button(tr("Folders"), tr("Folders that the crate watches"), this);
  m_pause = new Tick(tr("Pause"), tr("Pause listening; rows stay"), this);
  m_cancel = new Button(tr("Stop"), tr("Stop this round; what waits is heard in the next"), this);
  m_bad = new Button({}, tr("Files that could not be read, and why"), this);
  m_bad->setWeight(Button::Weight::Danger);
  for (Button* button : {m_folders, m_bad}) button->setOpens(true);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, px(4), 0, 0);
  row->setSpacing(px(6));
  row->addWidget(m_text, 1);
  for (QWidget* widget : std::initializer_list<QWidget*>{m_bad, m_pause, m_cancel, m_folders})
    row->addWidget(widget);
  connect(m_folders, &QAbstractButton::clicked, this, &ScanLine::showFolders);
  connect(m_bad, &QAbstractButton::clicked, this, &ScanLine::showUnreadable);
  connect(m_pause, &QAbstractButton::toggled, this, [this](bool on) {
    if (Scanner* scanner = m_crate.scanner()) scanner->setPaused(on);
    refresh();
  });
  connect(m_cancel, &QAbstractButton::clicked, this, [this] {
    if (Scanner* scanner = m_crate.scanner()) scanner->cancel();
    refresh();
  });
  connect(&crate, &CrateService::scanMoved, this, &ScanLine::refresh);
  connect(&crate, &CrateService::changed, this, &ScanLine::refresh);
  refresh();
}

void ScanLine::refresh() {
  Scanner* scanner = m_crate.scanner();
  const auto progress = scanner ? scanner->progress() : Scanner::Progress{};
  const bool working = progress.working();
  m_pause->setVisible(working);
  m_cancel->setVisible(working);
  const int done = progress.heard + progress.unreadable;
  m_done = working && progress.toHear > 0 ? double(done) / progress.toHear : 0;
  QString text;
  if (working && progress.toHear == 0)
    text = tr("Looking: %1").arg(counted(progress.seen, tr("file"), tr("files")));
  else if (working)
    text = (progress.paused ? tr("Paused at %1 of %2") : tr("Heard %1 of %2"))
               .arg(done)
               .arg(progress.toHear);
  else if (progress.settling > 0)
    text =
        tr("Waiting for %1 being written").arg(counted(progress.settling, tr("file"), tr("files")));
  else if (const auto folders = scanner
                                    ? m_crate.crate()->folders()
                                    : Result<std::vector<std::string>>(std::vector<std::string>{}))
    text =
        folders->empty()
            ? QString()
            : tr("Watching %1").arg(counted(qint64(folders->size()), tr("folder"), tr("folders")));
  if (!progress.trouble.empty()) text = QString::fromStdString(progress.trouble);
  const auto bad =
      m_crate.scanner() && m_crate.crate() ? m_crate.crate()->unreadable(0) : Crate::Unreadable{};
  m_bad->setVisible(bad && bad->count > 0);
  if (bad) m_bad->setSaid(tr("%1 unreadable").arg(bad->count), m_bad->toolTip());
  m_text->setText(text);
  m_text->setToolTip(QString::fromStdString(progress.now));
  update();
}

void ScanLine::chooseFolder() {
  const QString folder = QFileDialog::getExistingDirectory(this, tr("Add a folder of sounds"),
                                                           QString(), QFileDialog::ShowDirsOnly);
  if (!folder.isEmpty()) m_crate.addFolder(folder);
}

void ScanLine::showFolders() {
  QMenu menu(this);
  menu.addAction(tr("Add a folder…"), this, &ScanLine::chooseFolder);
  menu.addAction(tr("Look again now"), this, [this] { m_crate.scanNow(); });
  menu.addSeparator();
  if (Crate* crate = m_crate.crate())
    if (const auto folders = crate->folders())
      for (const auto& folder : *folders) {
        const QString name = QString::fromStdString(folder);
        menu.addAction(tr("Stop watching %1").arg(name), this,
                       [this, name] { m_crate.removeFolder(name); });
      }
  menu.exec(m_folders->mapToGlobal(QPoint(0, m_folders->height() + px(2))));
}

void ScanLine::showUnreadable() {
  const auto bad = m_crate.crate()->unreadable();
  if (!bad) return;
  auto* list = new QListWidget(this);
  list->setWindowFlags(Qt::Popup);
  list->setAttribute(Qt::WA_DeleteOnClose);
  list->setAccessibleName(tr("Files that could not be read"));
  list->setWordWrap(true);
  for (const auto& [path, why] : bad->some)
    list->addItem(QStringLiteral("%1\n    %2")
                      .arg(QString::fromStdString(path), QString::fromStdString(why)));
  if (bad->count > int(bad->some.size()))
    list->addItem(tr("and %1 more").arg(bad->count - int(bad->some.size())));
  list->resize(px(460), px(300));
  list->move(mapToGlobal(QPoint(0, -px(304))));
  list->show();
  list->setFocus();
}

void ScanLine::paintEvent(QPaintEvent*) {
  if (m_done <= 0) return;
  QPainter p(this);
  const auto& c = theme::colours();
  p.fillRect(QRectF(0, 0, width(), 2), c.line);
  p.fillRect(QRectF(0, 0, width() * m_done, 2), c.brass);
}

} // namespace tuvvo

#include "widgets/ask_replace.h"

#include <QFileInfo>
#include <QMessageBox>
#include <QPushButton>

namespace tuvvo {

namespace {
constexpr int kNamed = 5;
}

void askToReplace(QWidget* over, const QStringList& files, const std::function<void()>& goOn) {
  if (files.isEmpty()) return goOn();
  auto* box = new QMessageBox(over);
  box->setAttribute(Qt::WA_DeleteOnClose);
  box->setObjectName(QStringLiteral("askToReplace"));
  box->setWindowTitle(QMessageBox::tr("Write over files?"));
  const QString folder = QFileInfo(files[0]).path();
  box->setText(
      files.size() == 1
          ? QMessageBox::tr("There is a file of this name already.")
          : QMessageBox::tr("There are %1 files of these names already.").arg(files.size()));
  QStringList named;
  for (const QString& file : files.mid(0, kNamed)) named << QFileInfo(file).fileName();
  if (files.size() > kNamed) named << QMessageBox::tr("and %1 more").arg(files.size() - kNamed);
  box->setInformativeText(named.join(QLatin1Char('\n')) + QMessageBox::tr("\nin %1").arg(folder));
  auto* replace = box->addButton(QMessageBox::tr("Write over"), QMessageBox::AcceptRole);
  box->setDefaultButton(box->addButton(QMessageBox::tr("Keep"), QMessageBox::RejectRole));
  QObject::connect(replace, &QAbstractButton::clicked, over, goOn);
  box->open();
}

} // namespace tuvvo

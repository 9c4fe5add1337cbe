// The one question before files are written over.
#pragma once

#include <QStringList>
#include <functional>

class QWidget;

namespace tuvvo {

/// Goes on at once where no file would be lost; else asks, without stopping anything that runs, and
/// goes on when the person agrees.
/// @param files  that are there and would be written over
void askToReplace(QWidget* over, const QStringList& files, const std::function<void()>& goOn);

} // namespace tuvvo

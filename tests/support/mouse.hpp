// The mouse over a picture, told at once: without a button QTest::mouseMove goes by way of the screen's server, and
// what it moves comes back when the server likes.
#pragma once

#include <QApplication>
#include <QMouseEvent>
#include <QWidget>

namespace wren {

inline void hover(QWidget* over, QPoint at) {
  QMouseEvent move(QEvent::MouseMove, at, over->mapToGlobal(at), Qt::NoButton, Qt::NoButton, Qt::NoModifier);
  QApplication::sendEvent(over, &move);
}

}  // namespace wren

// Fields that leave the window's keys to the window, and their values alone when the wheel only passes over them.
#pragma once

#include <QComboBox>
#include <QKeyEvent>
#include <QLineEdit>
#include <QWheelEvent>

namespace wren::app {

/// A number or word being typed. Undo takes back the typing first; with nothing typed it is the project's. Ctrl+U is
/// the window's (units), not "wipe the line".
class TypedField : public QLineEdit {
  Q_OBJECT
 public:
  using QLineEdit::QLineEdit;

 Q_SIGNALS:
  void given_up();  // Esc: what was typed goes

 protected:
  bool event(QEvent* event) override {
    if (event->type() == QEvent::ShortcutOverride && not_mine(*static_cast<QKeyEvent*>(event))) {
      event->ignore();
      return false;
    }
    return QLineEdit::event(event);
  }
  void keyPressEvent(QKeyEvent* event) override {
    if (not_mine(*event))
      event->ignore();
    else if (event->key() == Qt::Key_Escape)
      Q_EMIT given_up();
    else
      QLineEdit::keyPressEvent(event);
  }

 private:
  [[nodiscard]] bool not_mine(const QKeyEvent& key) const {
    if (key.key() == Qt::Key_U && key.modifiers() == Qt::ControlModifier) return true;
    const bool typed = isModified() && !isReadOnly();
    if (key.matches(QKeySequence::Undo)) return !typed || !isUndoAvailable();
    if (key.matches(QKeySequence::Redo)) return !typed || !isRedoAvailable();
    return false;
  }
};

/// A list of choices; the wheel scrolls what it lies on and never chooses.
class ChoiceField : public QComboBox {
 public:
  using QComboBox::QComboBox;

 protected:
  void wheelEvent(QWheelEvent* event) override { event->ignore(); }
};

}  // namespace wren::app

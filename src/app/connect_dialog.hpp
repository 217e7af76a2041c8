// Which machine: the shop's by their address, or another that is typed.
#pragma once

#include <QComboBox>
#include <QDialog>

#include "app/shop.hpp"

namespace wren::app {

class ConnectDialog : public QDialog {
  Q_OBJECT
 public:
  explicit ConnectDialog(Shop& shop, QWidget* parent = nullptr);
  /// As the shop's book has it; one that the book does not know has the address alone.
  [[nodiscard]] ShopMachine machine() const;

 private:
  Shop& shop_;
  QComboBox* which_;
};

}  // namespace wren::app

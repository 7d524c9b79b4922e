#pragma once
// The plans of boards and tag strips: each with its parts between lugs, what waits for a place, and what does not agree
// with the schematic.

#include "board_view.h"

#include <QDialog>

class QComboBox;
class QLabel;
class QListWidget;
class QPushButton;

namespace ember::app {

class BoardDialog : public QDialog {
    Q_OBJECT
  public:
    explicit BoardDialog(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] BoardView& view() { return *board; }

  private:
    void refresh();
    void edit(const Edit& edit);
    void layOut();
    /// Puts a waiting part between the first two free lugs of its kind.
    void place(const std::string& part);
    [[nodiscard]] const wires::BoardFigures* current() const;

    Document& document;
    QComboBox* which;
    BoardView* board;
    QListWidget* waiting;
    QLabel *words, *problems;
    QPushButton *proposal, *jumper, *clear;
};

} // namespace ember::app

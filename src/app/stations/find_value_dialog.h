#pragma once
// Which value gives what is wanted, and how to make it from what is in hand.

#include "app/document/document.h"

#include "core/plan/find_value.h"
#include "core/quantity/combine.h"

#include <QDialog>
#include <QFutureWatcher>

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;

namespace ember::app {

class FindValueDialog : public QDialog {
    Q_OBJECT
  public:
    explicit FindValueDialog(Document& document, QWidget* parent = nullptr);
    ~FindValueDialog() override;
    /// Asks about the part whose main value stands at this JSON pointer, and the figure that it is mostly chosen by.
    void askFor(const std::string& pointer);
    [[nodiscard]] bool searching() const { return search.isRunning(); }

  private:
    void refresh();
    void tellPresent();
    void find();
    void arrived();
    void use(bool above);
    void combineHand();
    [[nodiscard]] const plan::SoughtFigure* figure() const;

    Document& document;
    std::vector<plan::SoughtFigure> figures;
    std::vector<plan::ValueChoice> parts;
    QComboBox *figureBox, *partBox, *mains, *series, *handKind;
    QLineEdit *wanted, *hand, *handWanted, *handLoad;
    QPushButton *findButton, *useBelow, *useAbove;
    QLabel *present, *answer, *combinations;
    QFutureWatcher<Expected<plan::ValueFound>> search;
    std::stop_source stopping;
    quint64 asked = 0; ///< the build's revision when the question was put
    std::optional<plan::ValueFound> found;
    std::string pending;        ///< pointer of the part to choose as soon as there are figures
    std::optional<Edit> before; ///< what makes the part that was asked about
    Unit figureUnit = Unit::Volt;
};

} // namespace ember::app

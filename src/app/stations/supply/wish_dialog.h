#pragma once
// Which value gives what is wanted, and how to make it from what is in hand.

#include "app/document/document.h"

#include "core/plan/wishes.h"
#include "core/quantity/combine.h"

#include <QDialog>
#include <QFutureWatcher>

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;

namespace ember::app {

class WishDialog : public QDialog {
    Q_OBJECT
  public:
    explicit WishDialog(Document& document, QWidget* parent = nullptr);
    ~WishDialog() override;
    /// Asks about this section of the chain.
    void askFor(std::size_t section);
    [[nodiscard]] bool searching() const { return search.isRunning(); }

  private:
    enum class Question { Volts, Ripple, Peak, Discharge };
    void refreshParts();
    void find();
    void arrived();
    void use(bool above);
    void combineHand();

    Document& document;
    QComboBox *question, *part, *node, *handKind;
    QLineEdit *wanted, *hand, *handWanted, *handLoad;
    QPushButton *findButton, *useBelow, *useAbove;
    QLabel *answer, *combinations;
    QFutureWatcher<Expected<plan::Wish>> search;
    std::stop_source stopping;
    quint64 asked = 0; ///< the build's revision when the question was put
    std::optional<plan::Wish> wish;
    Unit valueUnit = Unit::Ohm, figureUnit = Unit::Volt;
};

} // namespace ember::app

#pragma once
// Layouts of the same parts beside each other: the present one, those kept, other schools, and proposals.

#include "plate_view.h"

#include "core/chassis/proposals.h"

#include <QDialog>
#include <QFutureWatcher>
#include <QTimer>

#include <atomic>

class QLabel;
class QLineEdit;
class QProgressBar;
class QPushButton;
class QTableWidget;

namespace ember::app {

class LayoutsDialog : public QDialog {
    Q_OBJECT
  public:
    LayoutsDialog(Document& document, PlateView& plate, QWidget* parent = nullptr);
    ~LayoutsDialog() override;

    void propose(); ///< three layouts, in the background
    void stop();
    [[nodiscard]] bool proposing() const { return search.isRunning(); }

  private:
    struct Row {
        enum class Kind { Now, Kept, School, Proposal } kind = Kind::Now;
        QString name;
        std::vector<Standing> places;
        std::size_t index = 0; ///< in the chassis's kept layouts, or among the proposals
    };
    void refresh();
    void fillScores();
    void showOver();
    void use();
    void keep();
    void forget();
    void arrived();
    [[nodiscard]] const Row* chosen() const;

    Document& document;
    PlateView& plate;
    QTableWidget *table, *scores;
    QLineEdit* name;
    QPushButton *useButton, *keepButton, *forgetButton, *proposeButton, *stopButton;
    QProgressBar* bar;
    QLabel* answer;
    std::vector<Row> rows;
    std::vector<chassis::Proposal> proposals;
    QFutureWatcher<std::vector<chassis::Proposal>> search;
    QTimer ticking, settled; ///< while searching; after the last move of a drag
    std::atomic<double> share = 0;
    std::stop_source stopping;
    quint64 asked = 0; ///< the build's revision when the question was put
    std::uint64_t seed = 1;
};

} // namespace ember::app

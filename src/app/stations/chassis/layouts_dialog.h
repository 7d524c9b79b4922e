#pragma once
// Layouts of the same parts beside each other, each with its picture: the present one, those kept, other schools, and
// the arrangements that builders use.

#include "plate_view.h"

#include "app/widgets/clock.h"
#include "core/chassis/arrange/arrange.h"

#include <QDialog>
#include <QFutureWatcher>

#include <atomic>
#include <stop_token>

class QCheckBox;
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

    void propose(); ///< every arrangement, in the background
    void stop();
    [[nodiscard]] bool proposing() const { return search.isRunning(); }

  private:
    struct Row {
        enum class Kind { Now, Kept, School, Arrangement } kind = Kind::Now;
        QString name;
        std::vector<Standing> places;
        std::size_t index = 0;            ///< in the chassis's kept layouts, or among the arrangements
        std::vector<double> figures = {}; ///< of its columns, after the name
        QString pickup = {};              ///< where the hum pickup is worst, and from what
        QPixmap picture = {};
    };
    void refresh();
    /// By the program: QTableWidget::selectRow() goes by the keys that are held down just then.
    void choose(int row);
    void choose(const QString& called);
    void fill();             ///< the table from the rows, in the order that is asked for
    void sortBy(int column); ///< again: the other way round
    /// Indices of the arrangements to show: five unlike ones, those that fit first; or all.
    [[nodiscard]] std::vector<std::size_t> shownArrangements() const;
    void showOver();
    void use();
    void keep();
    void forget();
    void arrived();
    [[nodiscard]] const Row* chosen() const;
    [[nodiscard]] const Row* other() const; ///< the second of two that are selected; nullptr: one alone
    void compare(const Row& row, const Row& with);

    Document& document;
    PlateView& plate;
    QTableWidget* table;
    QCheckBox* everyOne;
    QLineEdit* name;
    QPushButton *useButton, *keepButton, *forgetButton, *proposeButton, *stopButton;
    QProgressBar* bar;
    QLabel *answer, *remark, *over;
    std::vector<Row> rows;
    std::vector<std::size_t> order; ///< of the rows, as the table shows them
    int sortColumn = 0;             ///< 0: as they came
    bool downwards = false;
    std::vector<chassis::arrange::Arrangement> arranged;
    QFutureWatcher<std::vector<chassis::arrange::Arrangement>> search;
    Timer ticking, settled; ///< while searching; after the last move of a drag
    std::atomic<double> share = 0;
    std::stop_source stopping;
    quint64 asked = 0; ///< the build's revision when the question was put
};

} // namespace ember::app

#pragma once
// The supply's figures as a list, beside pinned ones or the spread of a thousand builds.

#include "app/document/document.h"

#include "app/widgets/clock.h"
#include "core/plan/named_figures.h"
#include "core/plan/tolerance_run.h"

#include <QFutureWatcher>
#include <QWidget>

#include <atomic>

class QComboBox;
class QLabel;
class QProgressBar;
class QPushButton;

namespace ember::app {

class FigureList;

class SupplyPanel : public QWidget {
    Q_OBJECT
  public:
    static constexpr std::size_t mostPins = 4;
    explicit SupplyPanel(Document& document, QWidget* parent = nullptr);
    ~SupplyPanel() override;

    void showSteady(const plan::Steady* steady);
    void pin(const QString& name);
    void unpin();
    void spread(); ///< a thousand builds, in the background
    void stopSpread();
    [[nodiscard]] bool spreading() const { return run.isRunning(); }
    /// What is compared with, or nullptr.
    [[nodiscard]] const plan::Figures* compared() const;
    [[nodiscard]] std::size_t pinCount() const { return pins.size(); }

  Q_SIGNALS:
    void comparedChanged();
    void sourceWanted(); ///< the plate winding, from what one has
    void said(const QString& sentence, bool good);

  private:
    void fill();
    [[nodiscard]] QString fuseWords() const;
    void arrived();
    void refreshChoice(int choose);

    struct Pin {
        QString name;
        plan::Figures figures;
        Build build;
    };
    Document& document;
    std::vector<Pin> pins;
    std::optional<plan::ToleranceRun> spreadFound;
    const plan::Steady* steady = nullptr;
    QComboBox* choice;
    FigureList* table;
    QLabel* fuses;
    QPushButton *pinButton, *unpinButton, *spreadButton, *everyPart;
    QProgressBar* bar;
    QFutureWatcher<Expected<plan::ToleranceRun>> run;
    Timer ticking, filling;
    std::atomic<double> share = 0;
    std::stop_source stopping;
    quint64 asked = 0; ///< the build's revision when the question was put
};

} // namespace ember::app

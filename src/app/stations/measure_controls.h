#pragma once
// What Measure is asked for: with which bench, of which channel, what, at which frequency and level.

#include "app/document/document.h"

#include <QWidget>

class QCheckBox;
class QComboBox;
class QHBoxLayout;
class QLabel;
class QLineEdit;
class QPushButton;

namespace ember::app {

class MeasureControls : public QWidget {
    Q_OBJECT
  public:
    explicit MeasureControls(Document& document, QWidget* parent = nullptr);
    /// What is chosen: one take, a series, or, with neither, the response by single tones.
    [[nodiscard]] std::optional<bench::TakeKind> take() const;
    [[nodiscard]] std::optional<bench::SeriesKind> series() const;
    /// Neither a take nor a series: a page of its own.
    enum class Page { None, Soak, Select };
    [[nodiscard]] Page page() const;
    void choosePage(Page page);
    void choose(std::optional<bench::TakeKind> kind);
    void chooseSeries(bench::SeriesKind kind);
    [[nodiscard]] Document::Bench bench() const;
    [[nodiscard]] std::size_t channel() const;
    [[nodiscard]] QString caption() const;
    /// A Problem says which field was not understood.
    [[nodiscard]] Expected<double> inputVolts() const;
    [[nodiscard]] Expected<double> fileFullScale() const;
    [[nodiscard]] bench::TakeRequest asked(double volts) const;
    [[nodiscard]] Expected<bench::SeriesRequest> askedSeries() const;
    /// A loudspeaker's impedance, frequency and ohms in each line of a table.
    void openImpedance(const QString& file);
    /// Follows the build: channels, the level proposed, which fields belong to what is chosen. `ready`: a take is
    /// possible.
    void refresh(bool ready);
    void showTaking(bool under);

  Q_SIGNALS:
    void changed();
    void takeAsked();
    void cancelAsked();
    void deviceAsked();
    void fileAsked();
    void said(const QString& sentence, bool good);

  private:
    void proposeLevel();
    void listSecondInputs();
    [[nodiscard]] double lineOhms() const; ///< [ohm] of the channel's load where it is a line's; else 0
    Document& document;
    QComboBox *source, *channels, *what, *frequency, *beside;
    QLineEdit *input, *watts, *list, *second, *fullScale;
    QCheckBox* every;
    QPushButton* speaker;
    std::vector<bench::Setup> besides;             ///< of the choices of `beside`
    std::optional<bench::Loudspeaker> loudspeaker; ///< measured; none: a typical one
    QPushButton *takeNow, *cancel;
    std::vector<std::pair<QWidget*, QLabel*>> fields; ///< with their captions, shown where they belong
    QString proposed = "50 mV";                       ///< input level that stands there while nobody typed another
};

} // namespace ember::app

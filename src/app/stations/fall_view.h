#pragma once
// The fall: the supply from left to right with volts as the height, to scale. Values are edited where they stand.

#include "app/document/document.h"
#include "app/widgets/quantity_field.h"

#include <QWidget>

namespace ember::app {

class FallView : public QWidget {
    Q_OBJECT
  public:
    FallView(Document& document, QWidget* parent = nullptr);
    void showSteady(const plan::Steady* steady, const plan::Steady* cold);
    [[nodiscard]] QSize sizeHint() const override { return {780, 350}; }

  Q_SIGNALS:
    void said(const QString& sentence, bool good);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

  private:
    struct Field {
        std::string pointer;
        QuantityField* field;
    };
    void rebuildFields();
    void refreshFields();
    void placeFields();
    QuantityField* addField(const std::string& pointer, const QString& name);
    [[nodiscard]] double nodeLeft(int node) const;
    [[nodiscard]] double nodeWidth() const;
    [[nodiscard]] double y(double volts) const;
    [[nodiscard]] double topVolts() const;
    void paintSource(QPainter& p) const;
    void paintNode(QPainter& p, int node) const;
    void paintSlope(QPainter& p, std::size_t section, int from) const;

    Document& document;
    std::vector<Field> fields;
    std::string shape; ///< kinds of the chain the fields were made for
    const plan::Steady* steady = nullptr;
    const plan::Steady* cold = nullptr;
};

} // namespace ember::app

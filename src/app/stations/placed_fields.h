#pragma once
// Values that are edited where they are drawn: each a number of the build at a place of the picture.

#include "app/document/document.h"
#include "app/theme/theme.h"
#include "app/widgets/quantity_field.h"

#include <functional>

namespace ember::app {

class PlacedFields : public QObject {
    Q_OBJECT
  public:
    struct Field {
        std::string pointer; ///< in the file
        QuantityField* field;
        bool small = false;
        std::optional<rules::Level> flag = {}; ///< of the worst open finding at its part
    };
    /// They are children of `picture`.
    PlacedFields(Document& document, QWidget* picture);

    QuantityField* add(const std::string& pointer, const QString& name, bool small = false);
    void clear();
    void refresh(); ///< to what the build says
    void dress();   ///< another theme's style sheet takes the fields' fonts away
    void place(const std::function<QRectF(const Field&)>& where);
    [[nodiscard]] std::vector<Field>& all() { return fields; }
    [[nodiscard]] const std::vector<Field>& all() const { return fields; }

  Q_SIGNALS:
    void said(const QString& sentence, bool good);

  private:
    Document& document;
    QWidget* picture;
    std::vector<Field> fields;
    std::optional<theme::Mode> dressed;
};

} // namespace ember::app

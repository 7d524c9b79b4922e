#include "placed_fields.h"

#include "app/widgets/words.h"

namespace ember::app {

using theme::Size;

PlacedFields::PlacedFields(Document& d, QWidget* on) : QObject(on), document(d), picture(on) {}

QuantityField* PlacedFields::add(const std::string& pointer, const QString& name, bool small) {
    auto* f = new QuantityField(picture);
    f->setObjectName(QString::fromStdString(pointer));
    f->setAccessibleName(name);
    f->setProperty("inPlace", true);
    f->setAlignment(Qt::AlignHCenter);
    f->setFont(theme::figures(small ? Size::Small : Size::Text));
    connect(f, &QuantityField::entered, this, [this, pointer, name](double v) {
        const auto place = placeAt(document.build(), pointer);
        const auto done = document.edit(setValue(
            (name + " to " + QString::fromStdString(formatExact(v, place ? place->unit : Unit::None))).toStdString(),
            pointer, v));
        if (!done) Q_EMIT said(text(done.problem().sentence), false);
    });
    connect(f, &QuantityField::refused, this, [this](const QString& s) { Q_EMIT said(s, false); });
    f->QWidget::show();
    fields.push_back({pointer, f, small});
    return f;
}

void PlacedFields::clear() {
    for (const Field& f : fields) {
        f.field->hide();
        f.field->deleteLater();
    }
    fields.clear();
}

void PlacedFields::refresh() {
    for (const Field& f : fields)
        if (const auto place = placeAt(document.build(), f.pointer)) f.field->show(*place);
}

void PlacedFields::dress() {
    if (dressed == theme::mode()) return;
    dressed = theme::mode();
    for (const Field& f : fields) f.field->setFont(theme::figures(f.small ? Size::Small : Size::Text));
}

void PlacedFields::place(const std::function<QRectF(const Field&)>& where) {
    for (const Field& f : fields) {
        const QRect at = where(f).toRect();
        f.field->setGeometry(at);
        f.field->setVisible(!at.isEmpty()); // one without a place is not on the keyboard's way
    }
}

} // namespace ember::app

#include "quantity_field.h"

#include <QKeyEvent>
#include <QStyle>
#include <QToolTip>

namespace ember::app {

QuantityField::QuantityField(QWidget* parent) : QLineEdit(parent) {
    connect(this, &QLineEdit::textEdited, this, [this] { touched = true; });
    connect(this, &QLineEdit::returnPressed, this, &QuantityField::take);
}

void QuantityField::show(const Place& p) {
    place = p;
    if (touched) return;
    setText(QString::fromStdString(formatExact(p.value, p.unit)));
    setCursorPosition(0);
}

void QuantityField::take() {
    if (!touched) return;
    const auto value = parseWithin(text().toStdString(), place.unit, place.range);
    if (!value) return refuse(QString::fromStdString(value.problem().sentence));
    touched = false;
    refuse({});
    if (*value != place.value)
        Q_EMIT entered(*value);
    else
        show(place);
}

void QuantityField::refuse(const QString& sentence) {
    if (wrong == sentence) return;
    wrong = sentence;
    setProperty("wrong", !sentence.isEmpty());
    style()->unpolish(this);
    style()->polish(this);
    setAccessibleDescription(sentence);
    if (!sentence.isEmpty() && isVisible()) QToolTip::showText(mapToGlobal(QPoint(0, height())), sentence, this);
    Q_EMIT refused(sentence);
}

void QuantityField::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Escape && touched) {
        touched = false;
        refuse({});
        show(place);
        return;
    }
    if ((e->key() == Qt::Key_Up || e->key() == Qt::Key_Down) && place.value > 0 && !touched) {
        const Series s = e->modifiers() & Qt::ShiftModifier ? fineSteps : coarseSteps;
        const double next = e->key() == Qt::Key_Up ? nextUp(place.value, s) : nextDown(place.value, s);
        if (checkWithin(next, place.unit, place.range)) Q_EMIT entered(next);
        return;
    }
    const bool typed = touched && (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter);
    QLineEdit::keyPressEvent(e);
    if (typed) e->accept(); // taking the value is all that this key does
}

void QuantityField::focusOutEvent(QFocusEvent* e) {
    take();
    QLineEdit::focusOutEvent(e);
}

} // namespace ember::app

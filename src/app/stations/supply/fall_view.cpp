#include "fall_view.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"

#include <QPainter>
#include <QPainterPath>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

FallView::FallView(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    setMinimumHeight(320);
    setAttribute(Qt::WA_OpaquePaintEvent); // nothing behind it needs painting
    // In a turn of its own after a figure or a key: the interface answers in between.
    renewal.setSingleShot(true);
    connect(&renewal, &QTimer::timeout, this, [this] {
        dressFields();
        placeFields();
        flagFields();
        update();
    });
    setAccessibleName("The supply's fall from the rectifier to the last node");
    connect(&document, &Document::buildChanged, this, [this] {
        rebuildFields();
        refreshFields();
        renewal.start();
    });
    rebuildFields();
}

void FallView::showSteady(const plan::Steady* s, const plan::Steady* c) {
    steady = s;
    cold = c;
    QString spoken;
    if (steady)
        for (std::size_t k = 0; k < steady->nodes.size(); ++k)
            spoken += QString("B+%1 %2, ").arg(k + 1).arg(text(steady->nodes[k].mean, Unit::Volt));
    setAccessibleDescription(spoken);
    renewal.start();
}

void FallView::showPinned(const plan::Steady* p) {
    pinned = p;
    update();
}

QuantityField* FallView::addField(const std::string& pointer, const QString& name, bool small) {
    auto* f = new QuantityField(this);
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
        if (!done) Q_EMIT said(QString::fromStdString(done.problem().sentence), false);
    });
    connect(f, &QuantityField::refused, this, [this](const QString& s) { Q_EMIT said(s, false); });
    f->installEventFilter(this);
    f->QWidget::show();
    fields.push_back({pointer, f, small});
    return f;
}

void FallView::rebuildFields() {
    const Build& b = document.build();
    std::string now;
    for (const Section& s : b.supply.sections) now += std::to_string(static_cast<int>(s.kind)) + s.id;
    if (now == shape) return;
    shape = now;
    for (const Field& f : fields) {
        f.field->hide();
        f.field->deleteLater();
    }
    fields.clear();
    if (b.supply.sections.empty()) return;
    addField("/transformer/plateVolts", "Plate winding, volts of a leg");
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section& s = b.supply.sections[k];
        const auto base = fmt::format("/supply/sections/{}/", k);
        if (s.kind == SectionKind::Capacitor) {
            addField(base + "capacitance", tag(s.id));
            addField(base + "volts", tag(s.id) + " rating", true);
        } else {
            const char* own = s.kind == SectionKind::Choke    ? "inductance"
                              : s.kind == SectionKind::Switch ? "closes"
                              : s.kind == SectionKind::Tap    ? "volts"
                                                              : "resistance";
            addField(base + own, tag(s.id));
            if (s.kind == SectionKind::Choke) addField(base + "resistance", tag(s.id) + " copper");
        }
    }
    setMinimumWidth(static_cast<int>(left + 14 + (1.85 * supplyNodes(b.supply) - 0.85) * leastNode));
    refreshFields();
    placeFields();
}

void FallView::refreshFields() {
    for (const Field& f : fields)
        if (const auto place = placeAt(document.build(), f.pointer)) f.field->show(*place);
}

double FallView::topVolts() const {
    double most = 100;
    if (cold && !cold->nodes.empty()) most = std::max(most, cold->nodes[0].most);
    for (const Section& s : document.build().supply.sections)
        if (s.kind == SectionKind::Capacitor) most = std::max(most, s.volts);
    return 50 * std::ceil(1.03 * most / 50);
}

double FallView::y(double v) const {
    return top + (height() - top - bottomGap) * (1 - v / topVolts());
}

double FallView::nodeWidth() const {
    const int nodes = supplyNodes(document.build().supply);
    return (width() - left - 14) / (nodes + 0.85 * (nodes - 1));
}
double FallView::nodeLeft(int node) const {
    return left + (node - 1) * 1.85 * nodeWidth();
}

QRectF FallView::placeOf(const Field& f) const {
    const Build& b = document.build();
    if (f.pointer == "/transformer/plateVolts") return {4, height() - bottomGap + 6, 88, 22};
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const auto base = fmt::format("/supply/sections/{}/", k);
        if (!f.pointer.starts_with(base)) continue;
        const Section& s = b.supply.sections[k];
        const int node = nodeOfSection(b.supply, k);
        const double between = nodeLeft(node) + 1.425 * nodeWidth();
        if (s.kind == SectionKind::Capacitor) {
            const double centre = nodeLeft(node) + nodeWidth() / 2, ceiling = y(s.volts) - 22;
            return f.pointer == base + "volts" ? QRectF(centre - 10, ceiling, 70, 20)
                                               : QRectF(centre - 92, ceiling, 80, 20);
        }
        if (s.kind == SectionKind::Tap) return {between - 32, height() - bottomGap + 6, 64, 22};
        double middle = 0.5 * topVolts();
        if (steady && steady->nodes.size() > static_cast<std::size_t>(node))
            middle = (steady->nodes[static_cast<std::size_t>(node - 1)].mean +
                      steady->nodes[static_cast<std::size_t>(node)].mean) /
                     2;
        const bool second = s.kind == SectionKind::Choke && f.pointer == base + "resistance";
        return {between - 44, y(middle) + 16 + (second ? 20 : 0), 88, 20};
    }
    return {};
}

/// Another theme's style sheet takes the fields' fonts away.
void FallView::dressFields() {
    if (dressed == theme::mode()) return;
    dressed = theme::mode();
    for (const Field& f : fields) f.field->setFont(theme::figures(f.small ? Size::Small : Size::Text));
}

void FallView::placeFields() {
    for (const Field& f : fields) f.field->setGeometry(placeOf(f).toRect());
}

/// Each part's first field says what is found at it, the worst first.
void FallView::flagFields() {
    const auto& sections = document.build().supply.sections;
    for (Field& f : fields) {
        std::vector<std::string> about;
        if (f.pointer == "/transformer/plateVolts") {
            about = {"no-source-resistance", "winding-amps", "other-mains"};
        } else {
            const std::size_t k = std::stoul(f.pointer.substr(std::string("/supply/sections/").size()));
            const std::size_t before = static_cast<std::size_t>(&f - fields.data()) - 1;
            if (k >= sections.size() || fields[before].pointer.starts_with(fmt::format("/supply/sections/{}/", k)))
                continue; // its second field
            about = {"/" + sections[k].id};
            if (k == 0) about.emplace_back("first-capacitor");
        }
        f.flag.reset();
        QString words;
        for (const rules::Finding& x : document.findings()) {
            if (x.waived || x.station != "supply") continue;
            if (std::none_of(about.begin(), about.end(), [&](const std::string& a) { return x.id.ends_with(a); }))
                continue;
            if (!f.flag) f.flag = x.level; // they come worst first
            words += (words.isEmpty() ? "" : "\n\n") + text(x.title) + ". " + text(x.text);
        }
        f.field->setToolTip(words);
        f.field->setAccessibleDescription(words);
    }
}

void FallView::resizeEvent(QResizeEvent*) {
    placeFields();
}

} // namespace ember::app

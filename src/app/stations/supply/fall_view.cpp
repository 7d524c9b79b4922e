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

FallView::FallView(Document& d, QWidget* parent)
    : QWidget(parent),
      document(d),
      fields(d, this),
      picture(this, [this] { return pieces(); }) {
    setMinimumHeight(320);
    setAttribute(Qt::WA_OpaquePaintEvent); // nothing behind it needs painting
    // In a turn of its own after a figure or a key: the interface answers in between.
    renewal.setSingleShot(true);
    connect(&renewal, &Timer::timeout, this, [this] {
        fields.dress();
        placeFields();
        flagFields();
        picture.renew();
    });
    setAccessibleName("The supply's fall from the rectifier to the last node");
    connect(&document, &Document::buildChanged, this, [this] {
        rebuildFields();
        fields.refresh();
        renewal.start();
    });
    connect(&fields, &PlacedFields::said, this, &FallView::said);
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
    picture.renew();
}

void FallView::addField(const std::string& pointer, const QString& name, bool small) {
    fields.add(pointer, name, small)->installEventFilter(this);
}

void FallView::rebuildFields() {
    const Build& b = document.build();
    std::string now;
    for (const Section& s : b.supply.sections) now += std::to_string(static_cast<int>(s.kind)) + s.id;
    for (const HungPart& h : hungParts(b.supply)) now += h.value + h.id;
    if (now == shape) return;
    shape = now;
    fields.clear();
    if (b.supply.sections.empty()) return;
    addField("/transformer/plateVolts", "Plate winding, volts of a leg");
    addField("/supply/rectifier/legResistance", "Resistor in each leg", true);
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
    for (const HungPart& h : hungParts(b.supply)) addField(h.value, tag(h.id), true);
    setMinimumWidth(static_cast<int>(left + 14 + (1.85 * supplyNodes(b.supply) - 0.85) * leastNode));
    fields.refresh();
    placeFields();
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

double FallView::hungLeft(const HungPart& part) const {
    const auto all = hungParts(document.build().supply);
    const auto there = std::count_if(all.begin(), all.end(), [&](const HungPart& h) { return h.node == part.node; });
    const double shown = static_cast<double>(std::min<std::ptrdiff_t>(there, mostHung));
    return nodeLeft(part.node) + nodeWidth() / 2 + hungWidth * (static_cast<double>(part.before) - shown / 2);
}

QRectF FallView::placeOf(const PlacedFields::Field& f) const {
    const Build& b = document.build();
    if (f.pointer == "/transformer/plateVolts") return {4, height() - bottomGap + 6, 88, 22};
    if (f.pointer == "/supply/rectifier/legResistance") return {4, height() - bottomGap + 44, 66, 18};
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
    for (const HungPart& h : hungParts(b.supply))
        if (f.pointer == h.value && h.before < mostHung)
            return {hungLeft(h) + 38, height() - bottomGap + 44, hungWidth - 40, 18};
    return {};
}

void FallView::placeFields() {
    fields.place([this](const PlacedFields::Field& f) { return placeOf(f); });
}

/// Each part's first field says what is found at it, the worst first.
void FallView::flagFields() {
    const auto& sections = document.build().supply.sections;
    for (PlacedFields::Field& f : fields.all()) {
        std::vector<std::string> about;
        if (f.pointer == "/transformer/plateVolts") {
            about = {"no-source-resistance", "winding-amps", "other-mains"};
        } else if (f.pointer == "/supply/rectifier/legResistance") {
            about = {"source-ohms", "leg-watts", "rectifier-peak"};
        } else if (!f.pointer.starts_with("/supply/sections/")) {
            for (const HungPart& h : hungParts(document.build().supply))
                if (h.value == f.pointer) about = {"/" + h.id};
        } else {
            const std::size_t k = std::stoul(f.pointer.substr(std::string("/supply/sections/").size()));
            const std::size_t before = static_cast<std::size_t>(&f - fields.all().data()) - 1;
            if (k >= sections.size() ||
                fields.all()[before].pointer.starts_with(fmt::format("/supply/sections/{}/", k)))
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

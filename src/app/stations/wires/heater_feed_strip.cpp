#include "heater_feed_strip.h"

#include "app/widgets/words.h"
#include "core/build/build_json.h"
#include "core/build/path.h"
#include "core/wires/hum.h"
#include "symbols.h"

#include <QMenu>
#include <QPainter>
#include <QPushButton>

#include <algorithm>
#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {

constexpr double half = 22; // of a symbol's width
constexpr double rowHeight = 38, mostRowHeight = 46, symbolWidth = 52, fieldsLeft = 156, fieldWidth = 74, wide = 310;

QString kelvin(double k) {
    return std::isfinite(k) ? QString("%1 °C").arg(k - 273.15, 0, 'f', 0) : QString("not placed");
}

} // namespace

HeaterFeedStrip::HeaterFeedStrip(Document& d, QWidget* parent) : QWidget(parent), document(d), fields(d, this) {
    setObjectName("heaterFeed");
    setAccessibleName("From the winding to its heaters");
    setFixedWidth(static_cast<int>(wide));
    connect(&fields, &PlacedFields::said, this, &HeaterFeedStrip::said);
    connect(&document, &Document::buildChanged, this, [this] { rebuild(); });
}

void HeaterFeedStrip::show(std::size_t k) {
    winding = k;
    rebuild();
    fields.dress();
    update();
}

std::string HeaterFeedStrip::at(const std::string& key) const {
    return fmt::format("/transformer/heaters/{}/{}", winding, key);
}

void HeaterFeedStrip::edit(const Edit& e) {
    if (auto done = document.edit(e); !done) Q_EMIT said(text(done.problem().text()), false);
}

void HeaterFeedStrip::addCell(Cell cell) {
    for (const auto& [pointer, name] : cell.fields) fields.add(pointer, name);
    if (cell.choices) {
        cell.button = new QPushButton(cell.title + " ▾", this);
        cell.button->setProperty("link", true);
        cell.button->setObjectName("feed" + QString::number(static_cast<int>(cell.symbol)));
        cell.button->QWidget::show();
        connect(cell.button, &QPushButton::clicked, this, [this, choices = cell.choices, button = cell.button] {
            QMenu menu(this);
            for (const Choice& c : choices())
                connect(menu.addAction(c.words), &QAction::triggered, this, [this, c] { edit(c.edit); });
            menu.exec(button->mapToGlobal(QPoint(0, button->height())));
        });
    }
    cells.push_back(std::move(cell));
}

void HeaterFeedStrip::rebuild() {
    const auto& windings = document.build().transformer.heaters;
    std::string now = std::to_string(winding);
    if (winding < windings.size()) {
        const HeaterWinding& w = windings[winding];
        const HeaterWinding* other = inSeriesWith(document.build().transformer, w);
        now += fmt::format(" {} {} {} {} {} {} {} {} {} {}", w.feeds, int(w.rectifier), int(w.dc.regulator),
                           int(w.dc.mount), int(w.reference), w.referenceNode, w.legResistance > 0, w.dc.series > 0,
                           other ? other->id : "", other && other->opposed);
    }
    if (now != shape) {
        shape = now;
        for (const Cell& c : cells)
            if (c.button) {
                c.button->hide();
                c.button->deleteLater();
            }
        cells.clear();
        fields.clear();
        if (winding < windings.size()) {
            const HeaterWinding& w = windings[winding];
            addCell({Symbol::Winding,
                     tag(w.id) + ", no load",
                     {{at("volts"), tag(w.id) + " volts without load"}, {at("amps"), tag(w.id) + " rating"}}});
            if (const HeaterWinding* other = inSeriesWith(document.build().transformer, w)) {
                const auto k = static_cast<std::size_t>(other - windings.data());
                const std::string base = fmt::format("/transformer/heaters/{}/", k);
                addCell({Symbol::Against,
                         tag(other->id) + (other->opposed ? " against it" : " added"),
                         {{base + "volts", tag(other->id) + " volts without load"}},
                         [base, id = other->id] {
                             return std::vector<Choice>{
                                 {"its volts taken off", setFlag(upper(id) + " against", base + "opposed", true)},
                                 {"its volts added", setFlag(upper(id) + " added", base + "opposed", false)}};
                         }});
            }
            if (w.feeds == "signal") {
                std::vector<std::pair<std::string, QString>> leads{{at("legResistance"), "Resistor in each lead"}};
                if (w.legResistance > 0) leads.emplace_back(at("legWatts"), "Rating of each resistor");
                addCell({Symbol::Leads, "in each lead", leads});
                addDirectCurrent(w);
                addReference(w);
            }
        }
    }
    fields.refresh();
    place();
    update();
}

void HeaterFeedStrip::addDirectCurrent(const HeaterWinding& w) {
    const auto choose = [this](const char* key, auto names, std::vector<QString> words) {
        return [this, key, names, words] {
            std::vector<Choice> out;
            for (std::size_t k = 0; k < words.size(); ++k)
                out.push_back({words[k], setText(words[k].toStdString(), at(key), std::string(names[k]))});
            return out;
        };
    };
    const std::vector<QString> rectifiers{"AC", "bridge", "two diodes"};
    addCell({Symbol::Rectifier,
             rectifiers[static_cast<std::size_t>(w.rectifier)],
             {},
             choose("rectifier", heaterRectifierNames,
                    {"AC to the heaters", "DC: a bridge of four diodes", "DC: two diodes and the centre tap"})});
    if (!w.rectified()) return;
    addCell(
        {Symbol::Reservoir,
         QString("reservoir"),
         {{at("dc/reservoir"), "Reservoir"}, {at("dc/capacitorVolts"), "Rating of its capacitors"}},
         [this] {
             std::vector<Choice> out;
             for (const RectifierType& r : Catalogue::shipped().rectifiers)
                 if (!r.vacuum && r.dcAmps >= 1)
                     out.push_back({"diodes: " + text(r.type), setText("diodes " + r.type, at("dc/diode"), r.type)});
             return out;
         }});
    addCell({Symbol::Filter, "filter",
             w.dc.series > 0
                 ? std::vector<std::pair<std::string, QString>>{{at("dc/series"), "Resistor of the filter"},
                                                                {at("dc/second"), "Second capacitor"}}
                 : std::vector<std::pair<std::string, QString>>{{at("dc/series"), "Resistor of the filter"}}});
    const std::vector<QString> regulators{"unregulated", "linear", "low dropout", "current"};
    const auto kind = w.dc.regulator;
    std::vector<std::pair<std::string, QString>> held;
    if (kind == HeaterRegulator::CurrentSource) held.emplace_back(at("dc/amps"), "Current that it holds");
    if (kind == HeaterRegulator::Linear || kind == HeaterRegulator::LowDropout)
        held.emplace_back(at("dc/volts"), "Volts that it holds");
    if (kind != HeaterRegulator::None) held.emplace_back(at("dc/dropout"), "Dropout at its largest current");
    addCell({Symbol::Regulator, regulators[static_cast<std::size_t>(kind)], held, [this] {
                 std::vector<Choice> out;
                 for (const auto& [words, regulator, dropout] :
                      {std::tuple{"no regulator", HeaterRegulator::None, 2.0},
                       {"a linear regulator", HeaterRegulator::Linear, 2.0},
                       {"a low-dropout regulator", HeaterRegulator::LowDropout, 0.5},
                       {"a current source", HeaterRegulator::CurrentSource, 1.5}})
                     out.push_back({words, together(words, {setText("", at("dc/regulator"),
                                                                    nameIn(heaterRegulatorNames, regulator)),
                                                            setValue("", at("dc/dropout"), dropout)})});
                 return out;
             }});
    if (kind == HeaterRegulator::None) return;
    const std::vector<QString> mounts{"on a board", "sink, K/W", "on the chassis"};
    addCell({Symbol::Heat, mounts[static_cast<std::size_t>(w.dc.mount)],
             w.dc.mount == RegulatorMount::HeatSink
                 ? std::vector<std::pair<std::string, QString>>{{at("dc/sink"), "Heat sink, kelvin per watt"}}
                 : std::vector<std::pair<std::string, QString>>{},
             choose("dc/mount", regulatorMountNames,
                    {"the case alone, on a board", "on a heat sink", "screwed to the chassis, insulated"})});
}

void HeaterFeedStrip::addReference(const HeaterWinding& w) {
    std::vector<std::pair<std::string, QString>> parts;
    if (w.referenceNode > 0)
        parts = {{at("lift/top"), "Divider's upper resistor"}, {at("lift/bottom"), "Divider's lower resistor"}};
    else if (w.reference == HeaterReference::Resistors || w.reference == HeaterReference::Potentiometer)
        parts = {{at("referenceOhms"), w.reference == HeaterReference::Resistors ? "Each resistor" : "Its track"}};
    addCell(
        {Symbol::Reference,
         w.referenceNode > 0 ? QString("raised from B+%1").arg(w.referenceNode) : QString("reference"), parts, [this] {
             std::vector<Choice> out{{"at ground", setWhole("reference at ground", at("referenceNode"), 0)}};
             for (int node = 1; node <= supplyNodes(document.build().supply); ++node)
                 out.push_back({QString("raised by a divider from B+%1").arg(node),
                                setWhole(fmt::format("reference raised from B+{}", node), at("referenceNode"), node)});
             return out;
         }});
}

double HeaterFeedStrip::row() const {
    return cells.empty() ? rowHeight : std::min(mostRowHeight, height() / static_cast<double>(cells.size()));
}

void HeaterFeedStrip::place() {
    std::map<std::string, QRectF> where;
    for (std::size_t k = 0; k < cells.size(); ++k) {
        const double y = row() * static_cast<double>(k);
        for (std::size_t n = 0; n < cells[k].fields.size(); ++n)
            where[cells[k].fields[n].first] = {fieldsLeft + (fieldWidth + 4) * static_cast<double>(n), y, fieldWidth,
                                               20};
        if (QPushButton* b = cells[k].button) {
            b->adjustSize();
            b->move(static_cast<int>(symbolWidth), static_cast<int>(y));
        }
    }
    fields.place([&](const PlacedFields::Field& f) { return where[f.pointer]; });
}

void HeaterFeedStrip::resizeEvent(QResizeEvent*) {
    place();
}

QStringList HeaterFeedStrip::figuresOf(const Cell& c) const {
    const Document::Solved& solved = document.solved();
    const auto& windings = solved.build.transformer.heaters;
    if (winding >= windings.size() || !solved.figures.nominal || !solved.figures.low) return {};
    const HeaterWinding& w = windings[winding];
    const auto find = [&](const plan::Steady& s) {
        const auto feed = s.heaterFeeds.find(w.id);
        return feed == s.heaterFeeds.end() ? plan::HeaterFeedFigures{} : feed->second;
    };
    const plan::HeaterFeedFigures n = find(*solved.figures.nominal), low = find(*solved.figures.low);
    const auto say = [](double v, Unit unit, int digits = 3) {
        return std::isfinite(v) ? text(v, unit, digits) : QString();
    };
    switch (c.symbol) {
    case Symbol::Winding: return {say(n.windingAmps, Unit::Ampere) + " RMS"};
    case Symbol::Against: {
        const HeaterWinding* other = inSeriesWith(solved.build.transformer, w);
        if (!other) return {};
        const double share = solved.figures.nominal->primaryVolts / solved.build.transformer.primaryVolts;
        return {"together " + say(share * std::abs(w.volts + (other->opposed ? -1 : 1) * other->volts), Unit::Volt),
                "wrong way " + say(share * std::abs(w.volts + (other->opposed ? 1 : -1) * other->volts), Unit::Volt)};
    }
    case Symbol::Leads: return w.legResistance > 0 ? QStringList{say(n.legWatts, Unit::Watt) + " each"} : QStringList{};
    case Symbol::Rectifier:
        return w.rectified() ? QStringList{say(n.diodePeak, Unit::Ampere) + " peak"}
                             : QStringList{say(n.out, Unit::Volt)};
    case Symbol::Reservoir: return {say(n.reservoir, Unit::Volt), "least " + say(low.reservoirLeast, Unit::Volt)};
    case Symbol::Filter: return {};
    case Symbol::Regulator:
        return w.dc.regulator == HeaterRegulator::None
                   ? QStringList{say(n.out, Unit::Volt), "ripple " + say(n.ripplePp, Unit::Volt, 2)}
                   : QStringList{say(n.out, Unit::Volt), say(low.headroom, Unit::Volt) + " left"};
    case Symbol::Heat:
        if (solved.figures.wires)
            for (const wires::HeatedWinding& x : solved.figures.wires->heaters.windings)
                if (x.id == w.id && x.regulator) return {say(x.regulator->watts, Unit::Watt), kelvin(x.regulator->now)};
        return {};
    case Symbol::Reference:
        return w.referenceNode > 0 ? QStringList{say(solved.figures.nominal->heaterReference(w), Unit::Volt)}
                                   : QStringList{};
    }
    return {};
}

void HeaterFeedStrip::paintSymbol(QPainter& p, const Cell& c, QPointF at) const {
    constexpr double unit = 15;
    const QPointF a = at - QPointF(half, 0), z = at + QPointF(half, 0);
    const auto box = [&](const char* words) {
        p.drawRect(QRectF(at.x() - 16, at.y() - 9, 32, 18));
        p.setFont(theme::text(Size::Small));
        p.drawText(QRectF(at.x() - 16, at.y() - 9, 32, 18), Qt::AlignCenter, words);
    };
    const HeaterWinding& w = document.build().transformer.heaters[winding];
    switch (c.symbol) {
    case Symbol::Winding:
    case Symbol::Against: symbols::inductor(p, a, z, unit); break;
    case Symbol::Leads:
        if (w.legResistance > 0)
            symbols::resistor(p, a, z, unit);
        else
            p.drawLine(a, z);
        break;
    case Symbol::Rectifier:
        if (w.rectified())
            symbols::diode(p, a, z, unit, false);
        else
            p.drawLine(a, z);
        break;
    case Symbol::Reservoir:
        p.drawLine(a, z);
        symbols::capacitor(p, at, at + QPointF(0, 20), unit, true);
        break;
    case Symbol::Filter:
        if (w.dc.series > 0)
            symbols::resistor(p, a, z, unit);
        else
            p.drawLine(a, z);
        break;
    case Symbol::Regulator:
        if (w.dc.regulator == HeaterRegulator::None)
            p.drawLine(a, z);
        else
            box(w.dc.regulator == HeaterRegulator::CurrentSource ? "I" : "U"),
                p.drawLine(a, QPointF(at.x() - 16, a.y())), p.drawLine(QPointF(at.x() + 16, z.y()), z);
        break;
    case Symbol::Heat: {
        const QPointF foot = at + QPointF(0, 9);
        p.drawLine(foot - QPointF(18, 0), foot + QPointF(18, 0));
        for (int fin = -2; fin <= 2; ++fin) p.drawLine(foot + QPointF(9 * fin, 0), foot + QPointF(9 * fin, -18));
        break;
    }
    case Symbol::Reference:
        if (w.reference == HeaterReference::Floating) break;
        symbols::ground(p, at - QPointF(0, 4), unit);
        break;
    }
}

void HeaterFeedStrip::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    if (winding >= document.build().transformer.heaters.size()) return;
    for (std::size_t k = 0; k < cells.size(); ++k) {
        const double y = row() * static_cast<double>(k);
        if (!cells[k].button) {
            p.setFont(theme::text(Size::Text));
            p.setPen(theme::color(Role::BoneDim));
            p.drawText(QRectF(symbolWidth + 4, y, fieldsLeft - symbolWidth, 20), Qt::AlignVCenter, cells[k].title);
        }
        p.setPen(QPen(theme::color(Role::Bone), 1.3));
        p.setBrush(Qt::NoBrush);
        paintSymbol(p, cells[k], {symbolWidth / 2 - 2, y + 14});
        p.setFont(theme::figures(Size::Small));
        p.setPen(theme::color(Role::Bone));
        p.drawText(QRectF(symbolWidth + 4, y + 19, wide - symbolWidth, 16), Qt::AlignVCenter,
                   figuresOf(cells[k]).join(", "));
    }
}

} // namespace ember::app

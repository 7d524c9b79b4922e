#include "path_picture.h"

#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/schematic/path_schematic.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QToolTip>
#include <fmt/format.h>

#include <cmath>

namespace ember::app {

using namespace schematic;
using theme::Role;
using theme::Size;

PathPicture::PathPicture(Document& d, QWidget* parent) : QWidget(parent), document(d), fields(d, this) {
    setFocusPolicy(Qt::ClickFocus);
    setMouseTracking(true);
    setAccessibleName("The channel's path from jack to load");
    renewal.setSingleShot(true);
    connect(&renewal, &Timer::timeout, this, [this] {
        fields.dress();
        update();
    });
    connect(&document, &Document::buildChanged, this, [this] {
        rebuild();
        fields.refresh();
        update();
    });
    connect(&document, &Document::figuresChanged, this, [this] { renewal.start(); });
    connect(&fields, &PlacedFields::said, this, &PathPicture::said);
    rebuild();
}

void PathPicture::setChannel(std::size_t k) {
    if (k == shown) return;
    shown = k;
    shape.clear();
    chosen = 0;
    rebuild();
    update();
    Q_EMIT stageChosen(chosen);
}

void PathPicture::select(int stage) {
    const int last = static_cast<int>(stages.size()) - 1;
    const int wanted = std::clamp(stage, last < 0 ? -1 : 0, last);
    if (wanted == chosen) return;
    chosen = wanted;
    update();
    Q_EMIT stageChosen(chosen);
}

void PathPicture::setZoom(double pixels) {
    unit = std::clamp(pixels, 15.0, 34.0);
    arrange();
    update();
}

int PathPicture::focusedPart() const {
    for (std::size_t k = 0; k < fieldOf.size(); ++k)
        if (fields.all()[k].field->hasFocus() && static_cast<int>(fieldOf[k].first) == chosen)
            return static_cast<int>(fieldOf[k].second);
    return -1;
}

std::string PathPicture::focusedValue() const {
    for (const PlacedFields::Field& f : fields.all())
        if (f.field->hasFocus()) return f.pointer;
    return {};
}

/// New fields where the shape of the path changed; the drawing again in any case.
void PathPicture::rebuild() {
    const Build& b = document.build();
    if (shown >= b.channels.size()) shown = 0;
    stages.clear();
    std::string now = std::to_string(shown);
    if (!b.channels.empty())
        for (const Stage& s : b.channels[shown].stages) {
            stages.push_back({drawingOf(s), 0});
            now += ";" + s.id + s.kind;
            for (const StagePart& p : s.parts) now += "," + p.slot + p.at + idOf(p.part) + mainKey(p.part);
        }
    loose.clear();
    if (!b.channels.empty() && !b.loose.empty()) {
        const ChannelSchematic drawn = channelSchematic(b, catalogueOf(b), shown);
        for (std::size_t k = 0; k < b.loose.size(); ++k)
            if (const LoosePart& part = b.loose[k]; drawn.schematic.find(idOf(part.part))) {
                loose.push_back(k);
                now += "/" + idOf(part.part) + mainKey(part.part);
            }
    }
    chosen = std::clamp(chosen, stages.empty() ? -1 : 0, static_cast<int>(stages.size()) - 1);
    if (now != shape) {
        shape = now;
        fields.clear();
        fieldOf.clear();
        for (std::size_t k = 0; k < stages.size(); ++k) {
            const Stage& s = b.channels[shown].stages[k];
            const auto add = [&](std::size_t part) {
                const StagePart& p = s.parts[part];
                const std::string id = idOf(p.part);
                fields.add(fmt::format("/channels/{}/stages/{}/parts/{}/{}", shown, k, part, mainKey(p.part)),
                           QString("%1, %2%3").arg(tag(id), text(p.slot), p.at.empty() ? "" : " " + text(p.at)), true);
                fieldOf.emplace_back(k, part);
            };
            for (const DrawnPart& p : stages[k].drawing.parts) add(p.part);
            if (stages[k].drawing.parts.empty()) // feedback is drawn as a line, its resistor on it
                for (std::size_t part = 0; part < s.parts.size(); ++part) add(part);
        }
        for (const std::size_t k : loose) {
            const PartValue& part = b.loose[k].part;
            fields.add(fmt::format("/loose/{}/{}", k, mainKey(part)), tag(idOf(part)) + ", loose part", true);
            fieldOf.emplace_back(ofNoStage, k);
        }
        fields.refresh();
        Q_EMIT stageChosen(chosen);
    }
    // What is written beside an upright part stands against it.
    for (std::size_t n = 0; n < fieldOf.size() && fieldOf[n].first != ofNoStage; ++n)
        for (const DrawnPart& p : stages[fieldOf[n].first].drawing.parts)
            if (p.part == fieldOf[n].second)
                fields.all()[n].field->setAlignment(std::abs(p.from.first - p.to.first) > 0.01 ? Qt::AlignHCenter
                                                    : p.left                                   ? Qt::AlignRight
                                                                                               : Qt::AlignLeft);
    arrange();
}

void PathPicture::arrange() {
    double x = margin;
    above = 8, below = 8;
    for (Placed& s : stages) {
        s.left = x;
        x += s.drawing.width;
        const auto reach = [&](double y) {
            above = std::max(above, -y + 1.6);
            below = std::max(below, y + 0.8);
        };
        for (const auto& wire : s.drawing.wires)
            for (const Point2& p : wire) reach(p.second);
        for (const DrawnSymbol& symbol : s.drawing.symbols) reach(symbol.y);
        for (const DrawnPart& p : s.drawing.parts) reach(p.from.second), reach(p.to.second);
    }
    above += 1.6; // feedback goes over the picture
    const double width = std::max((x + 1.8) * unit, looseWidth + 2 * margin * unit);
    loosePerRow = std::max(1, static_cast<int>((width - 2 * margin * unit) / looseWidth));
    looseRows = (static_cast<int>(loose.size()) + loosePerRow - 1) / loosePerRow;
    setMinimumSize(static_cast<int>(width), static_cast<int>((above + below) * unit + foot + looseHeight()));
    std::size_t k = 0;
    double feedback = 0;
    std::vector<QRectF> taken;
    fields.place([&](const PlacedFields::Field&) -> QRectF {
        const auto [stage, part] = fieldOf[k++];
        if (stage == ofNoStage) {
            const auto which = static_cast<std::size_t>(std::find(loose.begin(), loose.end(), part) - loose.begin());
            const QPointF middle = looseRect(which).center();
            return {middle.x() - fieldWidth / 2.0, middle.y() - 8 - fieldHeight, fieldWidth, fieldHeight};
        }
        const Placed& s = stages[stage];
        for (const DrawnPart& p : s.drawing.parts)
            if (p.part == part)
                return taken.emplace_back(freePlace(fieldRect(s, p), at(s, p.from), at(s, p.to), taken));
        feedback += 1; // on the feedback's line
        return {(margin + 2) * unit + (feedback - 1) * (fieldWidth + 40) + 34, 0.15 * unit, fieldWidth, fieldHeight};
    });
}

QPointF PathPicture::at(const Placed& s, const Point2& p) const {
    return {(s.left + p.first) * unit, (above + p.second) * unit};
}

/// `wanted`, or where another value stands there already the nearest place beside the part (from `a` to `b`) that is
/// free: on its other side, or a line further along or away from it.
QRectF PathPicture::freePlace(const QRectF& wanted, const QPointF& a, const QPointF& b,
                              const std::vector<QRectF>& taken) {
    const QPointF middle = (a + b) / 2, mirrored = 2 * middle - wanted.center();
    const double line = fieldHeight + 1;
    for (const double step : {0.0, line, -line, 2 * line, -2 * line})
        for (const QPointF& centre : {wanted.center(), mirrored}) {
            QRectF r = wanted;
            r.moveCenter(centre + QPointF(0, step));
            if (std::none_of(taken.begin(), taken.end(), [&](const QRectF& t) { return t.intersects(r); })) return r;
        }
    return wanted;
}

QRectF PathPicture::fieldRect(const Placed& s, const DrawnPart& part) const {
    const QPointF a = at(s, part.from), b = at(s, part.to), middle = (a + b) / 2;
    const bool upright = std::abs(a.x() - b.x()) < 1;
    const Stage& of = document.build().channels[shown].stages[static_cast<std::size_t>(&s - stages.data())];
    if (std::holds_alternative<OutputTransformer>(of.parts[part.part].part))
        return {middle.x() - fieldWidth / 2.0, middle.y() + 1.35 * unit, fieldWidth, fieldHeight};
    if (!upright)
        return {middle.x() - fieldWidth / 2.0, middle.y() - 0.58 * unit - fieldHeight, fieldWidth, fieldHeight};
    const double aside = (std::holds_alternative<CapacitorPart>(of.parts[part.part].part) ? 0.7 : 0.4) * unit;
    return part.left ? QRectF(middle.x() - aside - fieldWidth, middle.y() - 1, fieldWidth, fieldHeight)
                     : QRectF(middle.x() + aside, middle.y() - 1, fieldWidth, fieldHeight);
}

QRectF PathPicture::valveRect(const Placed& s, const DrawnValve& v) const {
    const QPointF c = at(s, {v.x, v.y});
    return {c.x() - 1.3 * unit, c.y() - 1.3 * unit, 2.6 * unit, 2.6 * unit};
}

QRect PathPicture::stageRect(int stage) const {
    if (stage < 0 || stage >= static_cast<int>(stages.size())) return {};
    const Placed& s = stages[static_cast<std::size_t>(stage)];
    return QRectF(s.left * unit, 0, s.drawing.width * unit, height() - looseHeight()).toRect();
}

const plan::ValvePoint* PathPicture::pointOf(std::size_t stage, const std::string& place) const {
    const auto& solved = document.solved();
    if (!solved.figures.nominal || shown >= solved.figures.nominal->channels.size() ||
        shown >= solved.build.channels.size())
        return nullptr;
    const auto& own = document.build().channels[shown].stages;
    for (const plan::ValvePoint& v : solved.figures.nominal->channels[shown].valves)
        if (v.stage == stage && v.at == place && stage < own.size() &&
            v.stage < solved.build.channels[shown].stages.size() &&
            solved.build.channels[shown].stages[v.stage].id == own[stage].id)
            return &v;
    return nullptr;
}

void PathPicture::mousePressEvent(QMouseEvent* e) {
    for (std::size_t k = 0; k < stages.size(); ++k)
        if (stages[k].drawing.width > 1 && stageRect(static_cast<int>(k)).contains(e->pos())) {
            select(static_cast<int>(k));
            setFocus();
            if (e->button() == Qt::RightButton) Q_EMIT menuWanted(static_cast<int>(k), e->globalPosition().toPoint());
            return;
        }
}

void PathPicture::mouseDoubleClickEvent(QMouseEvent* e) {
    for (std::size_t k = 0; k < stages.size(); ++k)
        for (const DrawnValve& v : stages[k].drawing.valves)
            if (valveRect(stages[k], v).contains(e->position()))
                return Q_EMIT valveWanted(static_cast<int>(k), static_cast<int>(v.valve));
}

void PathPicture::wheelEvent(QWheelEvent* e) {
    if (e->modifiers() & Qt::ControlModifier)
        setZoom(unit * (e->angleDelta().y() > 0 ? 1.1 : 1 / 1.1));
    else
        e->ignore();
}

void PathPicture::resizeEvent(QResizeEvent*) {
    arrange(); // loose parts stand at the foot
}

bool PathPicture::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip) {
        const QPoint here = static_cast<QHelpEvent*>(e)->pos();
        for (std::size_t k = 0; k < stages.size(); ++k)
            for (const DrawnValve& v : stages[k].drawing.valves)
                if (valveRect(stages[k], v).contains(here)) {
                    QToolTip::showText(static_cast<QHelpEvent*>(e)->globalPos(), "Double click or V: another valve",
                                       this);
                    return true;
                }
        const int stage = [&] {
            for (std::size_t k = 0; k < stages.size(); ++k)
                if (stageRect(static_cast<int>(k)).contains(here)) return static_cast<int>(k);
            return -1;
        }();
        if (stage >= 0)
            if (const StageKind* kind =
                    stageKind(document.build().channels[shown].stages[static_cast<std::size_t>(stage)].kind)) {
                QToolTip::showText(static_cast<QHelpEvent*>(e)->globalPos(), text(std::string(kind->about)), this);
                return true;
            }
    }
    return QWidget::event(e);
}

} // namespace ember::app

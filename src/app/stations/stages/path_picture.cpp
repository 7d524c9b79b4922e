#include "path_picture.h"

#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/build/path.h"
#include "core/schematic/stages/stage_kind.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QToolTip>
#include <fmt/format.h>

#include <algorithm>
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
        Q_EMIT renewed();
    });
    connect(&document, &Document::buildChanged, this, [this] {
        rebuild();
        fields.refresh();
        update();
        Q_EMIT renewed();
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
    Q_EMIT renewed();
    Q_EMIT stageChosen(chosen);
}

void PathPicture::setZoom(double pixels) {
    unit = std::clamp(pixels, 1.4, 12.0);
    arrange();
    update();
    Q_EMIT renewed();
}

void PathPicture::fit(QSize room) {
    if (paper.width > 0) setZoom(std::min(room.width() / paper.width, room.height() / paper.height));
}

int PathPicture::focusedPart() const {
    const Build& b = document.build();
    if (shown >= b.channels.size() || chosen < 0) return -1;
    const std::string at = focusedValue(), of = fmt::format("/channels/{}/stages/{}/parts/", shown, chosen);
    return at.rfind(of, 0) == 0 ? std::stoi(at.substr(of.size())) : -1;
}

std::string PathPicture::focusedValue() const {
    for (const PlacedFields::Field& f : fields.all())
        if (f.field->hasFocus()) return f.pointer;
    return {};
}

/// The drawing and its fields anew where the shape of the path changed: a value moves nothing.
void PathPicture::rebuild() {
    const Build& b = document.build();
    if (shown >= b.channels.size()) shown = 0;
    std::string now = std::to_string(shown);
    if (b.channels.empty()) {
        subject.reset();
    } else {
        subject = drawing::channelSubject(b, catalogueOf(b), shown);
        now += subject->shape();
    }
    stages.resize(b.channels.empty() ? 0 : b.channels[shown].stages.size());
    chosen = std::clamp(chosen, stages.empty() ? -1 : 0, static_cast<int>(stages.size()) - 1);
    if (now == shape) return;
    shape = now;
    fields.clear();
    fieldOf.clear();
    layOut();
    for (std::size_t k = 0; k < paper.bodies.size(); ++k) {
        const drawing::Body& body = paper.bodies[k];
        if (body.value.width <= 0) continue;
        const Part& part = subject->schematic[body.part];
        QString name = QString::fromStdString(body.id);
        if (const std::size_t stage = subject->stageOf(body); stage != drawing::noStage) {
            for (const StagePart& p : b.channels[shown].stages[stage].parts)
                if (idOf(p.part) == part.id)
                    name += QString(", %1%2").arg(text(p.slot), p.at.empty() ? "" : " " + text(p.at));
        } else {
            name += ", loose part";
        }
        auto* field = fields.add(part.place, name, true);
        field->setAlignment(body.upright ? Qt::AlignLeft : Qt::AlignHCenter);
        for (const drawing::Word& w : paper.words)
            if (w.body == static_cast<int>(k) && w.ink == drawing::Ink::Value && w.align == drawing::Align::Right)
                field->setAlignment(Qt::AlignRight);
        fieldOf.push_back(k);
    }
    fields.refresh();
    arrange();
    Q_EMIT stageChosen(chosen);
}

/// Room for what is written here: values as entry fields, volts and watts whatever they become.
void PathPicture::layOut() {
    paper = {};
    if (!subject) return;
    const QFontMetricsF words(theme::text(Size::Small)), bold(theme::text(Size::Small, true)),
        figures(theme::figures(Size::Small));
    drawing::Words room;
    room.height = std::ceil(words.height()) / writing;
    room.width = [&](const std::string& s) {
        return std::max(words.horizontalAdvance(text(s)), figures.horizontalAdvance(text(s))) / writing + 0.3;
    };
    room.valueWidth = fieldWidth / writing, room.valueHeight = fieldHeight / writing;
    room.value = [](const Part& part) { return part.place.empty() ? std::string() : std::string("000"); };
    room.volts = [](NetId) { return std::string("-000 V"); };
    room.notes = {"000 mA", "00.0 W, 100 %"};
    room.stageWidth = [&](std::size_t k) {
        const double wide =
            std::max({bold.horizontalAdvance(footName(k)), figures.horizontalAdvance("000 kΩ in; 000 kΩ out"),
                      static_cast<double>(footWidth)});
        return (wide + 8) / writing;
    };
    paper = drawing::draw(subject->subject, room);
    // Each stage's strip of the path, up to the next; of one beneath the path what is drawn of it.
    std::vector<double> left(stages.size(), -1);
    std::fill(stages.begin(), stages.end(), QRectF());
    for (const drawing::Body& b : paper.bodies) {
        const std::size_t k = subject->stageOf(b);
        if (k >= stages.size()) continue;
        QRectF own(b.box.x, b.box.y, b.box.width, b.box.height);
        if (b.value.width > 0) own |= QRectF(b.value.x, b.value.y, b.value.width, b.value.height);
        stages[k] |= own;
        if (b.stage == k) left[k] = left[k] < 0 ? own.left() : std::min(left[k], own.left());
    }
    double end = paper.width;
    for (std::size_t k = stages.size(); k-- > 0;)
        if (left[k] >= 0) {
            const double from = k == 0 ? 0 : std::max(0.0, left[k] - 3);
            stages[k] = QRectF(from, 0, std::max(1.0, end - from), paper.height);
            end = from;
        }
}

void PathPicture::arrange() {
    setMinimumSize(static_cast<int>(paper.width * unit), static_cast<int>(paper.height * unit));
    std::size_t k = 0;
    fields.place([&](const PlacedFields::Field&) -> QRectF {
        const drawing::Body& body = paper.bodies[fieldOf[k++]];
        if (!writable()) return {};
        QRectF room = at(body.value);
        const double spare = room.height() - fieldHeight;
        if (spare > 0) room.adjust(0, spare / 2, 0, -spare / 2);
        // The entry field's own edge keeps its words away from where they are written.
        const Qt::Alignment align = fields.all()[k - 1].field->alignment();
        return room.translated(align & Qt::AlignLeft ? -edge : align & Qt::AlignRight ? edge : 0, 0);
    });
}

const drawing::Body* PathPicture::bodyAt(const QPointF& p) const {
    for (const drawing::Body& b : paper.bodies)
        if (at(b.box).contains(p)) return &b;
    return nullptr;
}

int PathPicture::stageAt(const QPointF& p) const {
    if (const drawing::Body* b = bodyAt(p))
        if (const std::size_t k = subject->stageOf(*b); k < stages.size()) return static_cast<int>(k);
    for (std::size_t k = stages.size(); k-- > 0;) // what lies beneath the path before the strip that it lies in
        if (!stages[k].isEmpty() && stages[k].top() > 0 && stageRect(static_cast<int>(k)).contains(p.toPoint()))
            return static_cast<int>(k);
    for (std::size_t k = 0; k < stages.size(); ++k)
        if (stageRect(static_cast<int>(k)).contains(p.toPoint())) return static_cast<int>(k);
    return -1;
}

QRect PathPicture::stageRect(int stage) const {
    if (stage < 0 || stage >= static_cast<int>(stages.size())) return {};
    const QRectF& s = stages[static_cast<std::size_t>(stage)];
    const bool strip = s.top() <= 0 && !s.isEmpty(); // as high as the widget, which may be higher than the paper
    return QRectF(s.left() * unit, s.top() * unit, s.width() * unit, strip ? height() : s.height() * unit).toRect();
}

const plan::ValvePoint* PathPicture::pointOf(const ValveUse& use) const {
    const auto& solved = document.solved();
    if (!solved.figures.nominal || shown >= solved.figures.nominal->channels.size() ||
        shown >= solved.build.channels.size())
        return nullptr;
    const auto& own = document.build().channels[shown].stages;
    for (const plan::ValvePoint& v : solved.figures.nominal->channels[shown].valves)
        if (v.stage == use.stage && v.at == use.at && use.stage < own.size() &&
            v.stage < solved.build.channels[shown].stages.size() &&
            solved.build.channels[shown].stages[v.stage].id == own[use.stage].id)
            return &v;
    return nullptr;
}

void PathPicture::mousePressEvent(QMouseEvent* e) {
    dragged = e->globalPosition().toPoint();
    const int stage = stageAt(e->position());
    if (stage < 0) return;
    select(stage);
    setFocus();
    if (e->button() == Qt::RightButton) Q_EMIT menuWanted(stage, e->globalPosition().toPoint());
}

void PathPicture::mouseMoveEvent(QMouseEvent* e) {
    if (!(e->buttons() & (Qt::LeftButton | Qt::MiddleButton)) || !dragged) return;
    const QPoint here = e->globalPosition().toPoint();
    Q_EMIT moved(here - *dragged);
    dragged = here;
}

void PathPicture::mouseDoubleClickEvent(QMouseEvent* e) {
    const drawing::Body* body = bodyAt(e->position());
    const ValveUse* use = body ? subject->valveOf(*body) : nullptr;
    if (!use) return;
    const auto& valves = document.build().channels[shown].stages[use->stage].valves;
    for (std::size_t k = 0; k < valves.size(); ++k)
        if (valves[k].at == use->at) return Q_EMIT valveWanted(static_cast<int>(use->stage), static_cast<int>(k));
}

/// Larger or smaller round what is under the mouse.
void PathPicture::wheelEvent(QWheelEvent* e) {
    const double before = unit;
    setZoom(unit * std::pow(1.15, e->angleDelta().y() / 120.0));
    const QPointF by = e->position() * (1 - unit / before);
    Q_EMIT moved(by.toPoint());
    e->accept();
}

bool PathPicture::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip && subject) {
        const auto* help = static_cast<QHelpEvent*>(e);
        const drawing::Body* body = bodyAt(help->pos());
        if (body && subject->valveOf(*body)) {
            QToolTip::showText(help->globalPos(), "Double click or V: another valve", this);
            return true;
        }
        if (const int stage = stageAt(help->pos()); stage >= 0)
            if (const StageKind* kind =
                    stageKind(document.build().channels[shown].stages[static_cast<std::size_t>(stage)].kind)) {
                QToolTip::showText(help->globalPos(), text(std::string(kind->about)), this);
                return true;
            }
    }
    return QWidget::event(e);
}

} // namespace ember::app

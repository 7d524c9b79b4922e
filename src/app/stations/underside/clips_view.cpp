#include "clips_view.h"

#include "app/stations/underside/end_card.h"
#include "app/stations/underside/underside_picture.h"
#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/chassis/assembly.h"
#include "core/procedure/leads.h"
#include "core/schematic/whole.h"

#include <algorithm>

namespace ember::app {

ClipsView::ClipsView(Document& d, QBoxLayout::Direction across, QWidget* parent)
    : QWidget(parent),
      document(d),
      beside(across == QBoxLayout::LeftToRight) {
    auto* row = new QBoxLayout(across, this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(4);
    picture = new UndersidePicture(document);
    picture->setObjectName("clipsPicture");
    picture->setQuiet();
    row->addWidget(picture, 3);
    cards = new QBoxLayout(beside ? QBoxLayout::TopToBottom : QBoxLayout::LeftToRight);
    cards->setSpacing(4);
    cards->addWidget(black = new EndCard(false));
    cards->addWidget(red = new EndCard(true));
    row->addLayout(cards, 2);
    connect(&document, &Document::figuresChanged, this, [this] { show(shown); });
}

QString ClipsView::inWords() const {
    return black->title().isEmpty() ? QString() : black->title() + ". " + red->title() + ".";
}

void ClipsView::show(const std::string& id) {
    shown = id;
    const Document::Solved& solved = document.solved();
    const Build& build = solved.build;
    const auto points = procedure::testPoints(build);
    const procedure::TestPoint* point = procedure::findPoint(points, id);
    const wires::Harness* harness =
        solved.figures.wires && !build.chassis.parts.empty() ? &solved.figures.wires->harness : nullptr;
    picture->setVisible(harness);
    // Without it there is room for both ends beside each other.
    cards->setDirection(beside && harness ? QBoxLayout::TopToBottom : QBoxLayout::LeftToRight);
    if (!point) {
        black->clear();
        red->clear();
        return picture->pointAt({});
    }
    const Catalogue& catalogue = catalogueOf(build);
    const schematic::WholeAmplifier whole =
        harness ? harness->terminals.whole : schematic::wholeAmplifier(build, catalogue);
    const procedure::Leads leads = procedure::leadsOf(build, whole, *point);
    std::vector<UndersidePicture::Callout> clips;
    for (const auto& [card, end] : {std::pair{black, leads.common}, {red, leads.red}}) {
        const wires::Terminal* at = nullptr;
        if (harness && end.metal)
            at = harness->terminals.find(std::string(schematic::earthPart) + ".bolt");
        else if (harness) {
            const auto& list = harness->terminals.list;
            const auto found =
                std::find_if(list.begin(), list.end(), [pin = end.pin](const auto& t) { return t.pin == pin; });
            if (found != list.end()) at = &*found;
        }
        EndCard::Lie lie;
        lie.fromBelow = chassis::wiredFromBelow(build.chassis);
        if (at && build.chassis.parts[at->spot].kind == "socket") {
            const PlacedPart& socket = build.chassis.parts[at->spot];
            const wires::Vector way = wires::socketPinAt(build.chassis, socket, 1) -
                                      chassis::toChassis(chassis::frameOf(build.chassis, socket), 0, 0, 0);
            // As the picture has it: mirrored from below, y downwards.
            lie.pinOne = QPointF(lie.fromBelow ? -way.x() : way.x(), -way.y());
        }
        card->show(whole, catalogue, end, lie);
        if (at)
            clips.push_back({{at->at.x(), at->at.y()},
                             card->title(),
                             card == red ? theme::Role::Ember : theme::Role::Bone,
                             isLower(build.chassis.parts[at->spot].face)});
    }
    picture->pointAt(std::move(clips));
}

} // namespace ember::app

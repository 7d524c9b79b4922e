#include "grounds_station.h"

#include "app/stations/underside/underside_picture.h"
#include "wire_table.h"

#include "app/widgets/figure_list.h"
#include "app/widgets/quantity_field.h"
#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/wires/helps.h"
#include "core/wires/schools.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QHBoxLayout>
#include <QMenu>
#include <QPointer>
#include <QPushButton>
#include <QVBoxLayout>
#include <QtConcurrent>

#include <algorithm>
#include <array>
#include <cmath>

namespace ember::app {

using namespace wires;

namespace {
/// Below a nanovolt or nanoampere: 0.
QString small(double value, Unit unit) {
    return value < 1e-9 ? QString("0") : text(value, unit);
}
} // namespace

GroundsStation::GroundsStation(Document& d, QWidget* parent) : WireStation(d, called, parent) {
    scheme = new QComboBox;
    scheme->setObjectName("groundScheme");
    scheme->setAccessibleName("How the returns are joined");
    scheme->setToolTip("How the returns are joined");
    scheme->addItems({"own capacitors", "one star", "two stars", "bus", "by the chassis"});
    head->addWidget(scheme);
    bond = new QComboBox;
    bond->setObjectName("groundBond");
    bond->setAccessibleName("How the signal ground meets the chassis");
    bond->setToolTip("How the signal ground meets the earthed chassis: exactly once");
    for (QComboBox* box : {scheme, bond}) { // the list shows the whole words
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        box->setMinimumContentsLength(11);
    }
    bond->addItems({"bonded by a wire", "bonded through 10 Ω and diodes", "not bonded"});
    head->addWidget(bond);
    insulated = new QCheckBox("jacks insulated");
    insulated->setObjectName("jacksInsulated");
    insulated->setToolTip("The input jacks' sleeves do not touch the panel");
    head->addWidget(insulated);
    head->addStretch();
    schools = new QPushButton("Compare");
    schools->setObjectName("compareSchools");
    schools->setToolTip("Every way of joining the returns, tried on this layout");
    head->addWidget(schools);
    help = new QPushButton("What would help most");
    help->setObjectName("humHelp");
    head->addWidget(help);
    finishHead("groundWords");
    addEarthRow();
    picture->setKinds({RunKind::Ground, RunKind::Earth});
    const int at = column->indexOf(picture);
    column->removeWidget(picture);
    auto* middle = new QHBoxLayout;
    middle->addWidget(picture, 3);
    table = new WireTable("Ground wires", {"from", "to", "mΩ", "AC", "to chassis"}, {2, 3, 4});
    table->setObjectName("groundTable");
    budget = new FigureList("Hum and noise by source");
    budget->setObjectName("humBudget");
    middle->addWidget(budget, 2);
    column->insertLayout(at, middle, 5);
    table->setMinimumHeight(92);
    column->addWidget(table, 1);
    connect(table, &WireTable::moved, this, [this](const QString& wire) {
        picture->setLit(wire.isEmpty() ? std::set<std::string>{} : std::set{wire.toStdString()});
    });
    connect(picture, &UndersidePicture::chosen, table, &WireTable::select);
    offerWireMenu(table);
    connect(scheme, &QComboBox::activated, this, [this](int k) {
        edit(setText("returns: " + scheme->itemText(k).toStdString(), "/wiring/grounds",
                     nameIn(groundSchemeNames, static_cast<GroundScheme>(k))));
    });
    connect(bond, &QComboBox::activated, this, [this](int k) {
        edit(setText("signal ground " + bond->itemText(k).toStdString(), "/wiring/bond",
                     nameIn(bondNames, static_cast<Bond>(k))));
    });
    connect(insulated, &QCheckBox::clicked, this, [this](bool on) {
        edit(setFlag(on ? "insulate the jacks" : "jacks on the panel", "/wiring/insulatedJacks", on));
    });
    connect(help, &QPushButton::clicked, this, &GroundsStation::findHelp);
    connect(schools, &QPushButton::clicked, this, &GroundsStation::compare);
    refresh();
}

/// What lies outside the amplifier: the mains' own loop, and a source with an earth of its own.
void GroundsStation::addEarthRow() {
    auto* row = new QHBoxLayout;
    const auto field = [&](const char* title, const std::string& pointer) {
        row->addWidget(label(title, theme::Size::Text, false, "dim"));
        auto* f = new QuantityField;
        f->setObjectName(QString::fromStdString(pointer));
        f->setAccessibleName(title);
        f->setFixedWidth(70);
        connect(f, &QuantityField::entered, this,
                [this, title, pointer](double v) { edit(setValue(title, pointer, v)); });
        connect(f, &QuantityField::refused, this, [this](const QString& s) { Q_EMIT said(s, false); });
        row->addWidget(f);
        row->addSpacing(10);
        outside.emplace_back(pointer, f);
    };
    field("mains loop, 0: not measured", "/mains/loopOhms");
    earthed = new QCheckBox("source with its own earth");
    earthed->setObjectName("sourceEarthed");
    connect(earthed, &QCheckBox::clicked, this, [this](bool on) {
        edit(setFlag(on ? "the source is earthed" : "the source has no earth", "/wiring/sourceEarthed", on));
    });
    row->addWidget(earthed);
    row->addSpacing(10);
    field("between the earths", "/wiring/earthVolts");
    field("lead's screen", "/wiring/screenOhms");
    row->addStretch();
    column->insertLayout(column->indexOf(picture), row);
}

/// What a fault would do, as words.
QString GroundsStation::faultWords(const EarthFaults& f) const {
    if (!std::isfinite(f.touchVolts)) return {};
    const auto cleared = [](double seconds) {
        return std::isfinite(seconds) ? "cleared within " + text(seconds, Unit::Second, 2)
                                      : QString("not sure to be cleared");
    };
    QString out = f.liveAmps > 0
                      ? QString(" Live on the chassis: %1, %2; %3 to touch meanwhile.")
                            .arg(text(f.liveAmps, Unit::Ampere), cleared(f.liveSeconds), text(f.touchVolts, Unit::Volt))
                      : QString(" Live on the chassis: nothing clears it.");
    if (f.railAmps > 0)
        out += QString(" B+ on the chassis: %1, %2.").arg(text(f.railAmps, Unit::Ampere), cleared(f.railSeconds));
    return out;
}

GroundsStation::~GroundsStation() {
    stopHelp.request_stop();
}

void GroundsStation::arrive() {
    table->setFocus();
}

/// Each change is tried on the whole budget, which takes a second or two: in the background, then as a menu.
void GroundsStation::findHelp() {
    stopHelp.request_stop();
    stopHelp = std::stop_source();
    help->setEnabled(false);
    help->setText("trying changes...");
    QPointer<GroundsStation> self(this);
    (void)QtConcurrent::run([self, solved = document.solved(), stop = stopHelp.get_token(),
                             at = document.revisionNow()] {
        auto helps = whatHelps(solved.build, catalogueOf(solved.build), solved.figures, stop);
        QMetaObject::invokeMethod(qApp, [self, helps = std::move(helps), at] {
            if (!self) return;
            self->help->setEnabled(true);
            self->help->setText("What would help most");
            if (self->document.revisionNow() != at)
                return Q_EMIT self->said("The build has changed since; ask again.", false);
            if (helps.empty())
                return Q_EMIT self->said("No change that was tried lowers the hum by half a decibel or more.", true);
            auto* menu = new QMenu(self);
            menu->setObjectName("humHelpMenu");
            menu->setAttribute(Qt::WA_DeleteOnClose);
            for (const Help& h : helps)
                QObject::connect(
                    menu->addAction(QString("%1: %2 dB less").arg(text(h.edit.name)).arg(h.decibels, 0, 'f', 1)),
                    &QAction::triggered, self, [self, e = h.edit] { self->edit(e); });
            menu->popup(self->help->mapToGlobal(QPoint(0, self->help->height())));
        });
    });
}

/// A table of every scheme; Enter or a double click takes one.
void GroundsStation::compare() {
    const Document::Solved& solved = document.solved();
    if (!solved.figures.wires) return Q_EMIT said("Nothing is wired yet: place the parts first.", false);
    auto* dialog = new QDialog(this);
    dialog->setObjectName("schools");
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setWindowTitle("Returns joined in five ways");
    dialog->resize(720, 320);
    auto* layout = new QVBoxLayout(dialog);
    const auto own = std::count_if(solved.figures.wires->harness.runs.begin(), solved.figures.wires->harness.runs.end(),
                                   [&](const Run& r) { return r.kind == RunKind::Ground && r.own; });
    auto* about =
        label(QString("Hum and noise at the load, input shorted, worst channel.%1 The chassis as return is not judged: "
                      "its contacts' ohms, the sheet's own and what the transformer's field induces along it are not "
                      "computed, and a fault's current flows in it too. Enter wires the selected one.")
                  .arg(own == 0   ? QString()
                       : own == 1 ? QString(" A wire of your own stays in each.")
                                  : QString(" %1 wires of your own stay in each.").arg(own)),
              theme::Size::Text, false, "dim");
    about->setWordWrap(true);
    layout->addWidget(about);
    auto* all =
        new WireTable("Ways of joining the returns",
                      {"returns", "in all", "below rated", "by the returns", "loops", "wire, m"}, {1, 2, 3, 4, 5});
    all->setObjectName("schoolTable");
    std::vector<WireRow> rows;
    const auto compared = compareSchools(solved.build, catalogueOf(solved.build), solved.figures);
    double best = INFINITY;
    for (const auto& s : compared) best = std::fmin(best, s.rms); // without the chassis, whose volts are unknown
    for (const auto& s : compared) {
        const int k = static_cast<int>(s.scheme);
        rows.push_back({QString::number(k),
                        {scheme->itemText(k) + (s.scheme == solved.build.wiring.grounds ? ", as now" : ""),
                         text(s.rms, Unit::Volt),
                         std::isfinite(s.belowRatedDb) ? QString("%1 dB").arg(s.belowRatedDb, 0, 'f', 1) : QString("-"),
                         small(s.returns, Unit::Volt), QString::number(s.loops), QString::number(s.wire, 'f', 1)},
                        1,
                        s.rms < 1.12 * best}); // within a decibel
    }
    all->show(rows);
    all->select(QString::number(static_cast<int>(solved.build.wiring.grounds)));
    layout->addWidget(all);
    connect(all, &QTableWidget::cellActivated, dialog, [this, dialog, all] {
        const int k = all->currentId().toInt();
        edit(setText("returns: " + scheme->itemText(k).toStdString(), "/wiring/grounds",
                     nameIn(groundSchemeNames, static_cast<GroundScheme>(k))));
        dialog->accept();
    });
    dialog->show();
    all->setFocus();
}

void GroundsStation::refresh() {
    const Document::Solved& solved = document.solved();
    if (!solved.figures.wires) return;
    const WireFigures& f = *solved.figures.wires;
    const Wiring& w = solved.build.wiring;
    scheme->setCurrentIndex(static_cast<int>(w.grounds));
    bond->setCurrentIndex(static_cast<int>(w.bond));
    insulated->setChecked(w.insulatedJacks);
    double most = 0;
    for (const auto& [wire, amps] : f.hum.groundAmps) most = std::max(most, amps);
    std::vector<WireRow> rows;
    std::map<std::string, UndersidePicture::Look> looks;
    for (const Run& r : f.harness.runs) {
        if (r.kind != RunKind::Ground) continue;
        const auto at = f.hum.groundAmps.find(r.wire.id);
        const double amps = at == f.hum.groundAmps.end() ? 0 : at->second;
        const auto volts = [&](const std::string& end) {
            const auto v = f.hum.groundVolts.find(end);
            return v == f.hum.groundVolts.end() ? QString("0") : small(v->second, Unit::Volt);
        };
        rows.push_back({text(r.wire.id),
                        {text(spoken(r.wire.from)), text(spoken(r.wire.to)), QString::number(r.ohms * 1e3, 'f', 1),
                         small(amps, Unit::Ampere), volts(r.wire.from)}});
        looks[r.wire.id] = {1.3 + 5 * (most > 0 ? std::sqrt(amps / most) : 0),
                            amps > 0.15 * most ? text(amps, Unit::Ampere) : QString()};
    }
    table->show(rows);
    picture->setLooks(std::move(looks));
    std::vector<FigureList::Row> figures;
    QStringList sentences;
    for (const ChannelHum& c : f.hum.channels) {
        const QString name = text(solved.build.channels[c.channel].name);
        figures.push_back({name, text(c.rms, Unit::Volt),
                           std::isfinite(c.belowRatedDb())
                               ? QString("%1 dB below rated").arg(c.belowRatedDb(), 0, 'f', 0)
                               : QString()});
        // What the signal's own currents bring into the other channels, at 1 kHz, beside what the returns make.
        QStringList heard;
        if (c.channel < f.hum.driven.size())
            for (std::size_t other = 0; other < f.hum.driven[c.channel].reached.size(); ++other)
                if (const double share = f.hum.driven[c.channel].reached[other]; other != c.channel && share > 0)
                    heard << QString("in %1 %2 dB")
                                 .arg(text(solved.build.channels[other].name))
                                 .arg(20 * std::log10(share), 0, 'f', 0);
        for (std::size_t s = 0; s < humSources; ++s)
            figures.push_back({QString("   ") + nameOf(static_cast<HumSource>(s)), text(c.by[s], Unit::Volt),
                               static_cast<HumSource>(s) == HumSource::Grounds   ? heard.join(", ")
                               : static_cast<HumSource>(s) == HumSource::Heaters ? "leakage fixed at 10 M\u03A9"
                                                                                 : QString()});
        figures.push_back({"   A-weighted", text(c.weighted, Unit::Volt),
                           QString("unweighted %1 to %2").arg(text(c.least, Unit::Volt), text(c.most, Unit::Volt))});
        if (c.channel < f.hum.earthLoops.size() && w.sourceEarthed)
            figures.push_back({"   earthed source", text(f.hum.earthLoops[c.channel].output, Unit::Volt),
                               text(f.hum.earthLoops[c.channel].amps, Unit::Ampere)});
    }
    earthed->setChecked(w.sourceEarthed);
    for (const auto& [pointer, field] : outside) {
        if (const auto place = placeAt(solved.build, pointer)) field->show(*place);
        field->setEnabled(w.sourceEarthed || pointer == "/mains/loopOhms");
    }
    budget->show(std::move(figures));
    words->setText(QString("%1 bond%2 to the chassis, %3 loop%4. Hum at the load, input shorted; the thicker the line, "
                           "the more current. The safety earth is never lifted.%5%6")
                       .arg(f.hum.bonds.size())
                       .arg(f.hum.bonds.size() == 1 ? "" : "s")
                       .arg(f.hum.loops.size())
                       .arg(f.hum.loops.size() == 1 ? "" : "s")
                       .arg(faultWords(f.hum.faults),
                            w.grounds == GroundScheme::ChassisReturn
                                ? " Returns by the chassis: the sheet's own ohms and what the field induces along it "
                                  "are not in these figures."
                                : ""));
}

} // namespace ember::app

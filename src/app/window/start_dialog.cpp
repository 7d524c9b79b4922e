#include "start_dialog.h"

#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/plan/power_words.h"
#include "core/plan/solve.h"
#include "core/schematic/channel_parts.h"

#include <QDialogButtonBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QListWidget>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <QtConcurrent>

#include <cmath>
#include <map>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {

/// The path as a row of its stages: a circle for each valve, a box for what has none.
class PathStrip : public QWidget {
  public:
    explicit PathStrip(QWidget* parent) : QWidget(parent) { setFixedHeight(120); }
    const Build* build = nullptr;

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        p.fillRect(rect(), theme::color(Role::Ash));
        if (!build || build->channels.empty()) return;
        const auto& stages = build->channels[0].stages;
        const double step = (width() - 40.0) / std::max<std::size_t>(1, stages.size()), y = height() / 2.0 - 8;
        p.setPen(QPen(theme::color(Role::Line), 2));
        p.drawLine(QPointF(16, y), QPointF(width() - 16, y));
        for (std::size_t k = 0; k < stages.size(); ++k) {
            const QPointF c(20 + step * (static_cast<double>(k) + 0.5), y);
            const auto count = stages[k].valves.size();
            p.setPen(QPen(theme::color(count ? Role::Ember : Role::BoneDim), 1.6));
            p.setBrush(theme::color(Role::Soot));
            if (count == 0) p.drawRect(QRectF(c.x() - 9, c.y() - 7, 18, 14));
            const std::size_t columns = count > 2 ? 2 : 1;
            for (std::size_t n = 0; n < count; ++n) {
                const double row = static_cast<double>(n / columns),
                             rows = std::ceil(static_cast<double>(count) / static_cast<double>(columns));
                p.drawEllipse(c + QPointF(columns == 2 ? (n % 2 ? 11.0 : -11.0) : 0, (row - (rows - 1) / 2) * 24), 10,
                              10);
            }
            p.setPen(theme::color(Role::BoneDim));
            p.setFont(theme::text(Size::Small));
            const schematic::StageKind* kind = schematic::stageKind(stages[k].kind);
            p.drawText(QRectF(c.x() - step / 2 + 1, height() - 30, step - 2, 28), Qt::AlignHCenter | Qt::TextWordWrap,
                       kind ? text(std::string(kind->id)) : text(stages[k].kind));
        }
    }
};

QString partsOf(const Build& b) {
    std::map<std::string, int> count;
    for (const Valve& v : b.bottles) ++count[v.type];
    if (const RectifierType* r = Catalogue::shipped().rectifier(b.supply.rectifier.type); r && r->vacuum)
        ++count[r->type];
    QStringList out;
    for (const auto& [type, n] : count) out << QString("%1 × %2").arg(n).arg(text(type));
    int iron = 1, small = 0;
    for (const Section& s : b.supply.sections) iron += s.kind == SectionKind::Choke;
    for (const Channel& ch : b.channels) {
        iron += static_cast<int>(schematic::signalIron(ch).size());
        for (const Stage& s : ch.stages) small += static_cast<int>(s.parts.size());
    }
    out << QString("%1 of iron").arg(iron);
    out << QString("%1 parts in the path").arg(small);
    out << QString("%1 channel%2").arg(b.channels.size()).arg(b.channels.size() == 1 ? "" : "s");
    return out.join(",  ");
}

QString doesOf(const Build& b, std::stop_token stop) {
    const Catalogue& catalogue = catalogueOf(b);
    const auto s = plan::solveSteady(b, catalogue, {b.mains.volts}, {.stop = stop});
    if (!s) return text(s.problem().text());
    const QString supply =
        QString("B+1 %1, %2 from the wall").arg(text(s->nodes[0].mean, Unit::Volt), text(s->mainsWatts, Unit::Watt));
    const auto power = plan::channelPower(b, catalogue, *s, stop);
    if (power.empty() || plan::powerWords(power[0]).empty()) return supply;
    const plan::PowerFigures& p = power[0];
    return QString("%1%2;  gain %3 dB;  %4")
        .arg(text(plan::powerWords(p)), p.line() ? "" : QString(";  damping %1").arg(text(p.damping(), Unit::None, 2)))
        .arg(20 * std::log10(p.gain), 0, 'f', 1)
        .arg(supply);
}

} // namespace

StartDialog::StartDialog(QWidget* parent) : QDialog(parent) {
    setWindowTitle("New: begin from");
    resize(900, 470);
    auto* layout = new QVBoxLayout(this);
    auto* row = new QHBoxLayout;
    list = new QListWidget;
    list->setObjectName("starts");
    list->setAccessibleName("Starting points");
    list->setMinimumWidth(280);
    for (const Start& s : starts()) list->addItem(text(s.build.name));
    row->addWidget(list);
    auto* side = new QVBoxLayout;
    side->addWidget(title = label("", Size::Title));
    side->addWidget(about = label(""));
    about->setWordWrap(true);
    side->addWidget(picture = new PathStrip(this));
    side->addWidget(parts = label("", Size::Text, false, "dim"));
    parts->setWordWrap(true);
    side->addWidget(does = label(""));
    does->setObjectName("startDoes");
    does->setWordWrap(true);
    side->addStretch();
    row->addLayout(side, 1);
    layout->addLayout(row);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    buttons->button(QDialogButtonBox::Ok)->setText("Begin");
    for (const auto which : {QDialogButtonBox::Ok, QDialogButtonBox::Cancel}) buttons->button(which)->setIcon({});
    layout->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(list, &QListWidget::currentRowChanged, this, &StartDialog::present);
    connect(list, &QListWidget::itemDoubleClicked, this, &QDialog::accept);
    list->setCurrentRow(0);
}

StartDialog::~StartDialog() {
    stop.request_stop();
}

void StartDialog::present(int row) {
    if (row < 0 || row >= static_cast<int>(starts().size())) return;
    const Start& s = starts()[static_cast<std::size_t>(row)];
    title->setText(text(s.build.name));
    about->setText(text(s.build.notes));
    static_cast<PathStrip*>(picture)->build = &s.build;
    picture->update();
    parts->setText(partsOf(s.build));
    if (const auto at = known.find(s.id); at != known.end()) return does->setText(at->second);
    does->setText("computing what it will do ...");
    stop.request_stop(); // of the one that was shown before
    stop = std::stop_source();
    auto* watcher = new QFutureWatcher<QString>(this);
    connect(watcher, &QFutureWatcherBase::finished, this, [this, watcher, id = s.id, token = stop.get_token()] {
        watcher->deleteLater();
        if (token.stop_requested()) return;
        known[id] = watcher->result();
        does->setText(known[id]);
    });
    watcher->setFuture(
        QtConcurrent::run([build = &s.build, token = stop.get_token()] { return doesOf(*build, token); }));
}

void StartDialog::choose(int row) {
    list->setCurrentRow(row);
}

const Start* StartDialog::chosen() const {
    const int row = list->currentRow();
    return row < 0 ? nullptr : &starts()[static_cast<std::size_t>(row)];
}

} // namespace ember::app

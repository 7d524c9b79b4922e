#include "logbook_station.h"

#include "app/stations/chassis/solid_view.h"
#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/report/report.h"
#include "reading_table.h"

#include <QDateTime>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QImage>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QPdfWriter>
#include <QPushButton>
#include <QRegularExpression>
#include <QSaveFile>
#include <QSvgRenderer>
#include <QTableWidget>
#include <QTextDocument>
#include <QUrl>

namespace ember::app {

using theme::Role;

LogbookStation::LogbookStation(Document& d, QWidget* parent) : Station(d, called, parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(24, 14, 12, 8);
    auto* head = new QHBoxLayout;
    auto* name = new QLabel("Logbook");
    name->setFont(theme::text(theme::Size::Title, true));
    head->addWidget(name);
    head->addStretch();
    filter = new QLineEdit;
    filter->setObjectName("filter");
    filter->setPlaceholderText("filter: show entries that contain ...");
    filter->setAccessibleName("Filter the log");
    filter->setFixedWidth(240);
    head->addWidget(filter);
    layout->addLayout(head);
    table = new QTableWidget(0, 6);
    table->setObjectName("log");
    table->setAccessibleName("Log");
    table->setHorizontalHeaderLabels({"When", "Step", "What", "Value or words", "Verdict", "From"});
    table->verticalHeader()->hide();
    table->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table->verticalHeader()->setDefaultSectionSize(24);
    table->setShowGrid(false);
    table->setAlternatingRowColors(true);
    table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table->setSelectionBehavior(QAbstractItemView::SelectRows);
    table->setTabKeyNavigation(false);
    table->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    table->horizontalHeader()->setSectionResizeMode(3, QHeaderView::Stretch);
    layout->addWidget(table, 1);
    auto* foot = new QHBoxLayout;
    note = new QLineEdit;
    note->setObjectName("note");
    note->setPlaceholderText("a note; Enter writes it");
    note->setAccessibleName("Note");
    foot->addWidget(note, 1);
    const auto button = [&](const char* label, const char* tag, auto f) {
        auto* b = new QPushButton(label);
        b->setObjectName(tag);
        connect(b, &QPushButton::clicked, this, f);
        foot->addWidget(b);
    };
    button("Look again", "lookAgain", [this] { lookAgain(); });
    button("Strike out...", "strike", [this] { strike(); });
    button("Report as HTML...", "html", [this] { exportTo(false); });
    button("Report as PDF...", "pdf", [this] { exportTo(true); });
    layout->addLayout(foot);
    connect(note, &QLineEdit::returnPressed, this, [this] {
        if (note->text().trimmed().isEmpty()) return;
        LogEntry e;
        e.kind = "note";
        e.text = note->text().trimmed().toStdString();
        document.log(e);
        note->clear();
    });
    connect(filter, &QLineEdit::textChanged, this, &LogbookStation::refresh);
    connect(&document, &Document::logChanged, this, &LogbookStation::refresh);
    refresh();
}

void LogbookStation::refresh() {
    const auto& log = document.build().log;
    const auto points = procedure::testPoints(document.build());
    table->setRowCount(0);
    for (std::size_t k = log.size(); k-- > 0;) { // newest first
        const LogEntry& e = log[k];
        const bool readingEntry = e.kind == "reading";
        const std::string kind = e.kind == "stage" ? "step" : e.kind;
        QString value = QString::fromStdString(e.text);
        if (readingEntry) {
            value = QString::fromStdString(procedure::readText(e.value, procedure::unitOf(e), 4));
            if (!e.text.empty()) value += "  " + QString::fromStdString(e.text);
        }
        if (e.struck) value += "  (struck: " + QString::fromStdString(e.struckWhy) + ")";
        const QString cells[6] = {QString::fromStdString(e.time).replace('T', ' '),
                                  e.stage >= 0 && e.stage < procedure::stageCount
                                      ? QString::fromUtf8(procedure::stageName(e.stage).data())
                                      : QString(),
                                  text(readingEntry ? procedure::nameOf(points, e) : kind),
                                  value,
                                  QString::fromStdString(e.verdict),
                                  QString::fromStdString(e.source)};
        const QString wanted = filter->text().trimmed();
        if (!wanted.isEmpty() && std::none_of(std::begin(cells), std::end(cells), [&](const QString& c) {
                return c.contains(wanted, Qt::CaseInsensitive);
            }))
            continue;
        const int row = table->rowCount();
        table->insertRow(row);
        for (int c = 0; c < 6; ++c) {
            auto* item = new QTableWidgetItem(cells[c]);
            item->setData(Qt::UserRole, static_cast<qulonglong>(k));
            QFont font =
                c == 0 || (c == 3 && readingEntry) ? theme::figures(theme::Size::Text) : theme::text(theme::Size::Text);
            font.setStrikeOut(e.struck);
            item->setFont(font);
            if (e.struck)
                item->setForeground(theme::color(Role::BoneFaint));
            else if (c == 4)
                item->setForeground(verdictColour(&e));
            table->setItem(row, c, item);
        }
    }
}

void LogbookStation::lookAgain() {
    const auto* item = table->currentItem();
    const std::size_t entry = item ? item->data(Qt::UserRole).toULongLong() : document.build().log.size();
    if (entry >= document.build().log.size() || document.build().log[entry].file.empty())
        return Q_EMIT said(
            "Choose a measurement whose captures were kept: they are analysed again and shown in Measure.", false);
    const LogEntry& e = document.build().log[entry];
    Q_EMIT capturesWanted(QString::fromStdString(e.file), QString::fromStdString(e.hash));
}

void LogbookStation::strike() {
    const auto* item = table->currentItem();
    if (!item) return Q_EMIT said("Choose an entry to strike out.", false);
    const std::size_t entry = item->data(Qt::UserRole).toULongLong(); // the table may be written anew meanwhile
    bool ok = false;
    const QString why = QInputDialog::getText(this, "Strike out", "The entry stays readable. Why is it struck?",
                                              QLineEdit::Normal, {}, &ok);
    if (ok && !why.trimmed().isEmpty()) document.strike(entry, why.trimmed());
}

QString LogbookStation::reportText() const {
    Build reported = document.solved().build; // what the figures are of, with the record as it is now
    reported.log = document.build().log;
    return QString::fromStdString(report::html(
        reported, catalogueOf(reported), document.figures(), document.findings(),
        QDateTime::currentDateTime().toString("yyyy-MM-dd hh:mm").toStdString(),
        reported.chassis.parts.empty() ? "" : solidPng(reported, document.figures()).toBase64().toStdString()));
}

Expected<Done> LogbookStation::writeHtml(const QString& file) const {
    return saveText(reportText().toStdString(), file.toStdString());
}

Expected<Done> LogbookStation::writePdf(const QString& file) const {
    // Through a whole file in memory of the writer's own: an unwritable place is said, not half written.
    QSaveFile out(file);
    if (!out.open(QIODevice::WriteOnly))
        return Problem{file.toStdString(), "not written: " + out.errorString().toStdString()};
    QPdfWriter pdf(&out);
    pdf.setPageSize(QPageSize(QPageSize::A4));
    pdf.setTitle(QString::fromStdString(document.build().name));
    QTextDocument page;
    page.setDefaultFont(theme::text(theme::Size::Text));
    // The page knows images, not drawings: each is painted as one, as wide as the paper.
    QString html = reportText();
    static const QRegularExpression drawn("<svg.*?</svg>", QRegularExpression::DotMatchesEverythingOption);
    int number = 0;
    for (auto at = drawn.match(html); at.hasMatch(); at = drawn.match(html)) {
        constexpr int wide = 620, fine = 4;
        QSvgRenderer renderer(at.captured().toUtf8());
        const QSizeF size = renderer.viewBoxF().size();
        const double shown = std::min<double>(wide, size.width() * 3);
        QImage image((size * (fine * shown / std::max(1.0, size.width()))).toSize(), QImage::Format_RGB32);
        image.fill(Qt::white);
        QPainter painter(&image);
        renderer.render(&painter);
        painter.end();
        const QString name = QString("drawing-%1.png").arg(++number);
        page.addResource(QTextDocument::ImageResource, QUrl(name), image);
        html.replace(at.capturedStart(), at.capturedLength(),
                     QString("<img src=\"%1\" width=\"%2\">").arg(name).arg(std::lround(shown)));
    }
    page.setHtml(html);
    page.print(&pdf);
    if (!out.commit()) return Problem{file.toStdString(), "not written: " + out.errorString().toStdString()};
    return Done{};
}

void LogbookStation::exportTo(bool pdf) {
    const QString suffix = pdf ? "pdf" : "html";
    const QString to =
        QFileDialog::getSaveFileName(this, "Report", QString::fromStdString(document.build().name) + "." + suffix,
                                     pdf ? "PDF (*.pdf)" : "HTML (*.html)");
    if (to.isEmpty()) return;
    const auto done = pdf ? writePdf(to) : writeHtml(to);
    Q_EMIT said(done ? "Written: " + to : QString::fromStdString(done.problem().text()), done.ok());
}

} // namespace ember::app

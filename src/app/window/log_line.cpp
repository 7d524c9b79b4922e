#include "log_line.h"

#include "app/theme/theme.h"
#include "core/procedure/log_words.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>

namespace ember::app {

using theme::Role;

LogLine::LogLine(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    setObjectName("logLine");
    setAttribute(Qt::WA_StyledBackground);
    setFixedHeight(36);
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(20, 2, 20, 2);
    auto* word = new QLabel("log");
    word->setProperty("faint", true);
    layout->addWidget(word);
    line = new QLineEdit;
    line->setObjectName("logEntry");
    line->setFont(theme::figures(static_cast<theme::Size>(14)));
    line->setPlaceholderText("B+1 312, or a sentence");
    line->setAccessibleName("Log line: a test point and a reading, or a note");
    line->setFixedWidth(300);
    layout->addWidget(line);
    answer = new QLabel;
    answer->setAccessibleName("Verdict");
    answer->setSizePolicy(QSizePolicy::Ignored,
                          QSizePolicy::Preferred); // a long one is cut, and never widens the window
    layout->addWidget(answer, 1);
    auto* key = new QLabel("Ctrl+L");
    key->setProperty("faint", true);
    key->setFont(theme::figures(theme::Size::Small));
    layout->addWidget(key);
    connect(line, &QLineEdit::textEdited, this, &LogLine::preview);
    connect(line, &QLineEdit::returnPressed, this, &LogLine::take);
    connect(&document, &Document::stageReady, this, &LogLine::preview);
    connect(&document, &Document::judged, this, &LogLine::say);
}

QString LogLine::verdict() const {
    return answer->text();
}

void LogLine::say(const QString& sentence, bool good) {
    answer->setText(sentence);
    answer->setToolTip(sentence);
    answer->setStyleSheet(QString("color:%1").arg(theme::color(good ? Role::Verdigris : Role::Ember).name()));
}

void LogLine::preview() {
    if (line->text().trimmed().isEmpty()) return;
    const auto u = procedure::understandLogWords(document.build(), line->text().toStdString(), document.strand());
    if (!u.problem.empty()) return say(QString::fromStdString(u.problem), false);
    if (!u.point) return say("a note; Enter keeps it", true);
    const auto* stage = document.stage(u.stage, document.mainsRead());
    if (!stage) return say("computing what it should read ...; Enter keeps it", true);
    for (const auto& e : stage->expectations)
        if (e.point.id == u.point->id)
            say(QString::fromStdString(procedure::sentence(e, u.value)) + " at step \"" +
                    QString::fromUtf8(procedure::stageName(u.stage).data()) + "\"",
                procedure::judge(e, u.value) == procedure::Verdict::InRange);
}

void LogLine::take() {
    if (line->text().trimmed().isEmpty()) return;
    const auto u = procedure::understandLogWords(document.build(), line->text().toStdString(), document.strand());
    if (!u.problem.empty()) return say(QString::fromStdString(u.problem), false);
    const QString words = line->text().trimmed();
    line->clear();
    if (u.point) { // kept at once; judged when its band is there
        const auto taken = document.takeReading(*u.point, u.stage, u.value, "typed");
        return say((taken.good ? "kept: " : "") + taken.sentence, taken.good);
    }
    LogEntry e;
    e.kind = "note";
    e.text = words.toStdString();
    document.log(e);
    say("kept as a note", true);
}

} // namespace ember::app

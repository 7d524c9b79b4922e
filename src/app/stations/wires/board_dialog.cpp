#include "board_dialog.h"

#include "app/widgets/words.h"
#include "core/chassis/layout_edits.h"
#include "core/wires/hum.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QListWidget>
#include <QPushButton>
#include <QShortcut>
#include <QVBoxLayout>

#include <algorithm>
#include <set>

namespace ember::app {

using namespace wires;

BoardDialog::BoardDialog(Document& d, QWidget* parent) : QDialog(parent), document(d) {
    setObjectName("boards");
    setWindowTitle("Boards and tag strips");
    setAttribute(Qt::WA_DeleteOnClose);
    resize(860, 520);
    auto* column = new QVBoxLayout(this);
    auto* head = new QHBoxLayout;
    which = new QComboBox;
    which->setObjectName("boardWhich");
    which->setAccessibleName("Board");
    head->addWidget(which);
    const auto button = [&](const char* name, const char* called, const char* tip) {
        auto* b = new QPushButton(name);
        b->setObjectName(called);
        b->setToolTip(tip);
        head->addWidget(b);
        return b;
    };
    proposal =
        button("Lay out", "boardLayOut", "Every part between lugs, beside one that shares a net with it, with jumpers");
    jumper = button("Jumper", "boardJumper", "Click two lugs to join them by a bare wire");
    jumper->setCheckable(true);
    clear = button("No plan", "boardClear", "Its parts' ends meet by their nets, wherever they stand");
    head->addStretch();
    column->addLayout(head);
    words = label("", theme::Size::Text, false, "dim");
    words->setWordWrap(true);
    column->addWidget(words);
    board = new BoardView(document);
    column->addWidget(board, 3);
    auto* low = new QHBoxLayout;
    waiting = new QListWidget;
    waiting->setObjectName("boardWaiting");
    waiting->setAccessibleName("Parts without lugs");
    waiting->setToolTip("Parts without lugs: Enter or a double click puts one between free lugs");
    waiting->setMaximumWidth(220);
    low->addWidget(waiting);
    problems = label("");
    problems->setObjectName("boardProblems");
    problems->setWordWrap(true);
    problems->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    low->addWidget(problems, 1);
    column->addLayout(low, 1);
    for (const auto& [key, redo] : {std::pair{QKeySequence::Undo, false}, {QKeySequence::Redo, true}})
        connect(new QShortcut(key, this), &QShortcut::activated, this,
                [this, redo = redo] { redo ? document.undoStack().redo() : document.undoStack().undo(); });
    connect(which, &QComboBox::activated, this, [this] { refresh(); });
    connect(proposal, &QPushButton::clicked, this, &BoardDialog::layOut);
    connect(jumper, &QPushButton::toggled, board, &BoardView::setJumpering);
    connect(clear, &QPushButton::clicked, this, [this] {
        if (const BoardFigures* f = current())
            if (const auto e = clearBoard(document.build(), f->board.on)) edit(*e);
    });
    connect(waiting, &QListWidget::itemActivated, this,
            [this](QListWidgetItem* item) { place(item->data(Qt::UserRole).toString().toStdString()); });
    connect(board, &BoardView::changed, this,
            [this](const QString& name, const Board& to) { edit(setBoard(document.build(), name.toStdString(), to)); });
    connect(&document, &Document::figuresChanged, this, &BoardDialog::refresh);
    refresh();
}

const BoardFigures* BoardDialog::current() const {
    const auto& wired = document.solved().figures.wires;
    const auto k = static_cast<std::size_t>(std::max(0, which->currentIndex()));
    return wired && k < wired->boards.size() ? &wired->boards[k] : nullptr;
}

void BoardDialog::edit(const Edit& e) {
    if (auto done = document.edit(e); !done) words->setText(text(done.problem().text()));
}

void BoardDialog::layOut() {
    const BoardFigures* f = current();
    if (!f) return;
    const auto& solved = document.solved();
    edit(setBoard(document.build(), "lay out " + chassis::tagOf(solved.build.chassis.parts[f->spot]),
                  proposedBoard(solved.build, solved.figures.wires->harness, f->spot)));
}

void BoardDialog::place(const std::string& part) {
    const BoardFigures* f = current();
    if (!f) return;
    Board to = f->board;
    std::set<int> taken;
    for (const BoardPart& p : to.parts) taken.insert({p.from, p.to});
    BoardPart fresh;
    fresh.part = part;
    for (int column = 1; column <= to.columns && fresh.from == 0; ++column) {
        const int other = to.rows == 2 ? to.columns + column : column + 1;
        if (other <= to.lugs() && !taken.contains(column) && !taken.contains(other))
            fresh.from = column, fresh.to = other;
    }
    if (fresh.from == 0)
        return words->setText("No two lugs beside each other are free; move a part, or take a larger board.");
    to.parts.push_back(fresh);
    edit(setBoard(document.build(), upper(part) + " on the board", to));
}

void BoardDialog::refresh() {
    const auto& solved = document.solved();
    const auto& wired = solved.figures.wires;
    const std::size_t count = wired ? wired->boards.size() : 0;
    if (which->count() != static_cast<int>(count)) {
        which->clear();
        for (std::size_t k = 0; k < count; ++k)
            which->addItem(text(chassis::tagOf(solved.build.chassis.parts[wired->boards[k].spot])));
    }
    const BoardFigures* f = current();
    for (QWidget* w : {static_cast<QWidget*>(proposal), static_cast<QWidget*>(jumper), static_cast<QWidget*>(board)})
        w->setEnabled(f != nullptr);
    clear->setEnabled(f && f->laidOut);
    waiting->clear();
    if (!f) {
        words->setText("No board and no tag strip stands on the chassis. The tray of Chassis has both.");
        problems->clear();
        return;
    }
    board->show(*f);
    for (const std::string& id : f->waiting) {
        auto* item = new QListWidgetItem(tag(id), waiting);
        item->setData(Qt::UserRole, text(id));
    }
    std::size_t parts = 0, jumpers = 0;
    for (const BoardPart& p : f->board.parts) (p.part.empty() ? jumpers : parts) += 1;
    words->setText(QString("Seen from the soldered side. %1 lugs %2 mm apart, %3 parts, %4 jumpers, %5 without lugs. "
                           "Dashed: under the board; a square lug: its wire leaves beneath.")
                       .arg(f->board.lugs())
                       .arg(f->board.pitch * 1e3, 0, 'g', 3)
                       .arg(parts)
                       .arg(jumpers)
                       .arg(f->waiting.size()));
    QStringList all;
    for (const BoardProblem& p : f->problems) all << text(p.sentence).toHtmlEscaped() + ".";
    problems->setText(!f->laidOut ? "Not laid out: its parts' ends are taken to meet by their nets."
                      : all.isEmpty()
                          ? "It agrees with the schematic: every net of the board is joined, and nothing else."
                          : coloured(theme::Role::Ember, all.join("<br>")));
}

} // namespace ember::app

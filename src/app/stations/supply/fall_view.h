#pragma once
// The fall: the supply from left to right with volts as the height, to scale. Values are edited where they stand.

#include "app/stations/placed_fields.h"
#include "hung_parts.h"

#include "app/widgets/clock.h"
#include "app/widgets/turned_picture.h"

#include <QWidget>

#include <optional>

class QMenu;

namespace ember::app {

class FallView : public QWidget {
    Q_OBJECT
  public:
    FallView(Document& document, QWidget* parent = nullptr);
    void showSteady(const plan::Steady* steady, const plan::Steady* cold);
    /// Figures to compare with; nullptr for none. They must outlive the view's use of them.
    void showPinned(const plan::Steady* pinned);

    // What keys and menus do to the section that has the focus, or `at`.
    void insert(std::size_t at, SectionKind kind);
    void remove(std::size_t at);
    void shift(std::size_t at, int by);
    void connectAs(Connection connection);
    [[nodiscard]] std::optional<std::size_t> focused() const; ///< section whose field has the focus
    void focusSection(std::size_t at);
    [[nodiscard]] QSize sizeHint() const override { return {780, 350}; }

  Q_SIGNALS:
    void said(const QString& sentence, bool good);
    void valueWanted(std::size_t section); ///< which value it should have is asked

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    bool eventFilter(QObject* field, QEvent* event) override;

  private:
    static constexpr double left = 150, top = 34, bottomGap = 62; ///< margins [pixel]
    static constexpr double leastNode = 104;                      ///< width of a plateau before the picture scrolls
    static constexpr double hungWidth = 96;                       ///< of a part that hangs on a node, under it
    static constexpr std::ptrdiff_t mostHung = 2;                 ///< that are shown under a node
    void rebuildFields();
    void placeFields();
    void flagFields();
    [[nodiscard]] QRectF placeOf(const PlacedFields::Field& field) const;
    void addField(const std::string& pointer, const QString& name, bool small = false);
    [[nodiscard]] double nodeLeft(int node) const;
    [[nodiscard]] double nodeWidth() const;
    [[nodiscard]] double hungLeft(const HungPart& part) const;
    [[nodiscard]] double y(double volts) const;
    [[nodiscard]] double topVolts() const;
    [[nodiscard]] std::vector<TurnedPicture::Piece> pieces() const;
    [[nodiscard]] bool solvedHere() const; ///< the figures at hand are of this chain
    void paintScale(QPainter& p) const;
    void paintSource(QPainter& p) const;
    void paintNode(QPainter& p, int node) const;
    void paintHung(QPainter& p, int node) const;
    void paintSlope(QPainter& p, std::size_t section, int from) const;
    void paintTap(QPainter& p, std::size_t section, int to) const;
    void paintPinned(QPainter& p) const;
    void paintFlags(QPainter& p) const;
    void apply(const Edit& edit);
    void takeAway(const HungPart& part);
    bool takeKey(QWidget& field, const QKeyEvent& event);
    [[nodiscard]] std::optional<std::size_t> sectionAt(const QPoint& at) const;
    void fillMenu(QMenu& menu, std::size_t at);

    Document& document;
    Timer renewal;
    PlacedFields fields;
    TurnedPicture picture;
    std::string shape; ///< kinds of the chain the fields were made for
    const plan::Steady* steady = nullptr;
    const plan::Steady* cold = nullptr;
    const plan::Steady* pinned = nullptr;
};

} // namespace ember::app

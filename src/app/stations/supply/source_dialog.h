#pragma once
// The plate winding from what one has: a nameplate, own measurements, a test under load.

#include "app/document/document.h"

#include "core/plan/source_model.h"

#include <QDialog>

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;

namespace ember::app {

class SourceDialog : public QDialog {
    Q_OBJECT
  public:
    explicit SourceDialog(Document& document, QWidget* parent = nullptr);

  private:
    void ask(); ///< the questions of the chosen way
    void answer();
    void use();

    struct Question {
        QLabel* words;
        QLineEdit* field;
    };
    Document& document;
    QComboBox* way;
    std::vector<Question> questions;
    QLabel* found;
    QPushButton* useButton;
    std::optional<plan::SourceModel> model;
};

} // namespace ember::app

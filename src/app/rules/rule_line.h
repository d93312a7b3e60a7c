// A line of a rule, typed: what could come next is listed above it.
#pragma once
#include "app/rules/rules_state.h"
#ifndef Q_MOC_RUN
#include "rules/sentence.h"
#endif
#include <QLineEdit>

class QListWidget;

namespace loom::app {

class RuleLine : public QLineEdit {
    Q_OBJECT
  public:
    explicit RuleLine(RulesState& state, QWidget* parent = nullptr);
    ~RuleLine() override;
    QListWidget* list() { return list_; }
    void begin(const QString& text); // to be gone on with

  signals:
    void wantsBack();

  protected:
    void keyPressEvent(QKeyEvent*) override;
    bool focusNextPrevChild(bool next) override; // Tab takes what is offered
    void focusOutEvent(QFocusEvent*) override;
    void focusInEvent(QFocusEvent*) override;

  private:
    void look();
    void offer(std::vector<project::Completion> all);
    void take(int row);
    void accept();
    RulesState& state_;
    QListWidget* list_;
    QTimer soon_;
    std::vector<project::Completion> offered_{};
    Worker<std::vector<project::Completion>> looker_;
};

} // namespace loom::app

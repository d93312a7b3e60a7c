// What is open about a file that is read: a list of questions, each dropping open to its answers, on saffron.
#pragma once
#include <QWidget>
#include <functional>
#include <string>
#include <vector>

class QVBoxLayout;

namespace loom::app {

class QuestionList : public QWidget {
    Q_OBJECT
  public:
    struct Question {
        QString name, text; // of the widget; what is asked
        std::vector<std::string> answers;
        std::function<void(std::size_t)> answered; // called once the list may be filled anew
    };
    explicit QuestionList(QWidget* parent = nullptr);
    void ask(const std::vector<Question>& questions); // instead of those before
    QWidget* first() const;                           // null: nothing is asked

  private:
    QVBoxLayout* box_;
};

} // namespace loom::app

#include "app/speakers/curve_reader.h"
#include "app/shell/choice_box.h"
#include "app/shell/flow_layout.h"
#include "app/shell/question_list.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "dsp/number.h"
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace loom::app {
namespace {

QString frequencyText(double v) {
    return v >= 1000 ? q(print("%.4g kHz", v / 1000)) : q(print("%.4g Hz", v));
}

} // namespace

// The curve as it would be taken: level or ohms over frequency, its phase below in thin strokes.
class CurveReader::Preview : public QWidget {
  public:
    explicit Preview(CurveReader& owner) : owner_(owner) {
        setObjectName("curvePreview");
        setAccessibleName("Curve as it is read");
        setMinimumHeight(120);
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        const auto& c = owner_.reading_.curve;
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        const QRectF r = QRectF(rect()).adjusted(px(52), px(10), -px(14), -px(24));
        p.setPen(QPen(tokens().hair, 1));
        p.setBrush(tokens().card);
        p.drawRoundedRect(r, px(4), px(4));
        if (c.hz.size() < 2)
            return;
        const bool ohms = owner_.chosen().use == loudspeaker::CurveUse::impedance;
        // From the decade its frequencies begin in to the one they end in, wherever that is: a wrong unit is seen.
        const double low = std::pow(10, std::floor(std::log10(c.hz.front()) + 1e-9)),
                     high = std::pow(10, std::ceil(std::log10(c.hz.back()) - 1e-9));
        const auto [least, most] = std::minmax_element(c.db.begin(), c.db.end());
        const double span = std::max(*most - *least, ohms ? 4.0 : 6.0);
        double step = std::pow(10, std::floor(std::log10(span / 3)));
        step *= span / step > 12 ? 5 : span / step > 6 ? 2 : 1;
        const double bottom = ohms ? 0 : std::floor(*least / step) * step,
                     top = std::ceil((*most + span * 0.05) / step) * step;
        const auto x = [&](double hz) { return r.left() + r.width() * std::log(hz / low) / std::log(high / low); };
        const auto y = [&](double v) { return r.bottom() - r.height() * (v - bottom) / (top - bottom); };
        p.setFont(Theme::get().number(9));
        for (double decade = low; decade <= high * 1.01; decade *= 10) {
            for (const double k : {1.0, 2.0, 5.0}) {
                const double hz = decade * k;
                if (hz > high * 1.01)
                    break;
                p.setPen(QPen(tokens().hair, 1));
                p.drawLine(QPointF(x(hz), r.top()), QPointF(x(hz), r.bottom()));
                if (k != 1 && high / low > 2000)
                    continue;
                p.setPen(tokens().ink2);
                p.drawText(QRectF(x(hz) - px(30), r.bottom() + px(4), px(60), px(14)), Qt::AlignCenter,
                           hz >= 1000 ? QString("%1k").arg(hz / 1000) : QString::number(hz));
            }
        }
        for (double v = bottom; v <= top + step / 2; v += step) {
            p.setPen(QPen(tokens().hair, 1));
            p.drawLine(QPointF(r.left(), y(v)), QPointF(r.right(), y(v)));
            p.setPen(tokens().ink2);
            p.drawText(QRectF(0, y(v) - px(8), r.left() - px(6), px(16)), Qt::AlignRight | Qt::AlignVCenter,
                       QString::number(v, 'g', 4).replace('-', QChar(0x2212)) + (ohms ? " \u03a9" : " dB"));
        }
        QPainterPath level, phase;
        for (std::size_t i = 0; i < c.hz.size(); ++i) {
            const QPointF at(x(c.hz[i]), y(c.db[i]));
            i ? level.lineTo(at) : level.moveTo(at);
            if (c.hasPhase) {
                const double deg = std::remainder(c.deg[i], 360);
                const QPointF turn(at.x(), r.center().y() - r.height() / 2 * deg / 180);
                const bool jumps = i > 0 && std::abs(std::remainder(c.deg[i - 1], 360) - deg) > 180;
                i && !jumps ? phase.lineTo(turn) : phase.moveTo(turn);
            }
        }
        p.setClipRect(r);
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(tokens().ink2, 1, Qt::DotLine));
        p.drawPath(phase);
        p.setPen(QPen(tokens().ink, 2));
        p.drawPath(level);
    }

  private:
    CurveReader& owner_;
};

CurveReader::CurveReader(QWidget* parent)
    : QWidget(parent), all_(1), title_(new QLabel), says_(new QLabel), for_(new ChoiceBox),
      questions_(new QuestionList), windowRow_(new QWidget), window_(new QLineEdit), preview_(new Preview(*this)),
      take_(new QPushButton("Take the curve")), back_(new QPushButton("Leave it")) {
    setObjectName("curveReader");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(12, 8, 12, 8);
    auto* head = new FlowLayout;
    title_->setStyleSheet("font-weight: bold");
    title_->setObjectName("curveName");
    for_->setObjectName("curveFor");
    for_->setAccessibleName("What it is");
    take_->setObjectName("takeCurve");
    take_->setProperty("main", true);
    back_->setObjectName("leaveCurve");
    for (QWidget* w : {static_cast<QWidget*>(title_), static_cast<QWidget*>(for_), static_cast<QWidget*>(take_),
                       static_cast<QWidget*>(back_)})
        head->addWidget(w);
    box->addLayout(head);
    says_->setWordWrap(true);
    says_->setObjectName("curveSays");
    box->addWidget(says_);
    box->addWidget(questions_);
    auto* row = new QHBoxLayout(windowRow_);
    row->setContentsMargins(0, 0, 0, 0);
    auto* label = new QLabel("Window behind the peak, ms");
    label->setBuddy(window_);
    window_->setObjectName("curveWindow");
    window_->setMaximumWidth(90);
    row->addWidget(label);
    row->addWidget(window_);
    row->addStretch(1);
    box->addWidget(windowRow_);
    box->addWidget(preview_, 1);
    connect(take_, &QPushButton::clicked, this, &CurveReader::approved);
    connect(back_, &QPushButton::clicked, this, &CurveReader::wantsBack);
    connect(for_, &QComboBox::activated, this, [this](int i) {
        chosen_ = i;
        (void)read();
        show();
    });
    connect(window_, &QLineEdit::editingFinished, this, [this] {
        const auto typed = typedNumber(window_->text().toStdString());
        if (filling_ || typed.length == 0 || !(typed.value >= 1 && typed.value <= 500))
            return show();
        windowMs_ = typed.value;
        (void)read();
        show();
    });
    connect(&Theme::get(), &Theme::changed, preview_, qOverload<>(&QWidget::update));
}

std::optional<Error> CurveReader::open(const std::string& bytes, const QString& name, const std::vector<For>& all,
                                       int chosen) {
    bytes_ = bytes;
    name_ = name;
    all_ = all;
    chosen_ = std::clamp(chosen, 0, static_cast<int>(all.size()) - 1);
    answers_.clear();
    windowMs_ = 0;
    if (auto wrong = read())
        return wrong;
    show();
    return {};
}

std::optional<Error> CurveReader::read() {
    auto r =
        loudspeaker::readCurve(bytes_, name_.toStdString(), chosen().use, answers_,
                               windowMs_ > 0 ? loudspeaker::CurveWindow{2, windowMs_} : loudspeaker::CurveWindow{});
    failed_ = !r;
    if (!r) {
        reading_ = {};
        says_->setText(q(r.error().text()));
        return r.error();
    }
    reading_ = std::move(*r);
    return {};
}

void CurveReader::show() {
    filling_ = true;
    title_->setText(name_);
    for_->clear();
    for (const auto& f : all_)
        for_->addItem(f.label);
    for_->setCurrentIndex(chosen_);
    std::vector<QuestionList::Question> open;
    for (const auto& question : reading_.open)
        open.push_back({"curve." + q(question.topic), q(question.text) + " Say which", question.choices,
                        [this, topic = question.topic](std::size_t choice) {
                            answers_[topic] = choice;
                            (void)read();
                            show();
                        }});
    questions_->ask(open);
    if (!failed_) {
        QStringList columns;
        for (const auto& c : reading_.columns)
            columns << q(c);
        QString says = "Read as: " + columns.join("; ") + ".";
        for (const auto& n : reading_.notes)
            says += " " + q(n);
        if (!reading_.curve.hz.empty())
            says += QString(" %1 points from %2 to %3.")
                        .arg(reading_.curve.hz.size())
                        .arg(frequencyText(reading_.curve.hz.front()), frequencyText(reading_.curve.hz.back()));
        if (!reading_.open.empty())
            says += " Shown as it is likely; answer what is asked first.";
        says_->setText(says);
    }
    windowRow_->setVisible(reading_.impulse);
    window_->setText(q(print("%.4g", reading_.window.afterMs)));
    take_->setEnabled(ready());
    preview_->update();
    filling_ = false;
}

void CurveReader::takeFocus() {
    if (auto* first = questions_->first())
        first->setFocus();
    else
        take_->setFocus();
}

void CurveReader::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Escape)
        emit wantsBack();
    else
        QWidget::keyPressEvent(e);
}

} // namespace loom::app

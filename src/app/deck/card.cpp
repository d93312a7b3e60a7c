#include "app/deck/card.h"
#include "app/deck/curve_view.h"
#include "app/deck/file_list.h"
#include "app/deck/history_view.h"
#include "app/deck/lane_gains_view.h"
#include "app/deck/levels_view.h"
#include "app/deck/matrix_table.h"
#include "app/deck/notch_view.h"
#include "app/deck/remarks.h"
#include "app/deck/sliders_view.h"
#include "app/deck/transfer_view.h"
#include "app/deck/value_field.h"
#include "app/parameter_drag.h"
#include "app/shell/choice_box.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "model/block_names.h"
#include "model/notes.h"
#include "program/ports.h"
#include "program/program_edit.h"
#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QSpinBox>
#include <QVBoxLayout>

namespace loom::app {
namespace {

// A line that gives way: as much of it as there is room for.
class ShortLabel : public QLabel {
  public:
    explicit ShortLabel(const QString& text) : QLabel(text) {
        setMinimumWidth(1);
        setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setPen(palette().color(foregroundRole()));
        p.drawText(rect(), Qt::AlignVCenter | Qt::AlignLeft, fontMetrics().elidedText(text(), Qt::ElideRight, width()));
    }
};

} // namespace

Toggle::Toggle(Session& session, const QString& block, const QString& param, QWidget* parent)
    : QWidget(parent), session_(session), block_(block), param_(param) {
    setObjectName(block + "." + param);
    setFixedSize(Theme::get().ipx(30), Theme::get().ipx(18));
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName("On");
    setToolTip("On or off");
}

bool Toggle::on() const {
    const auto* b = session_.program()->find(block_.toStdString());
    return b && engine::BlockView(*b).look()[param_.toStdString()] >= 0.5;
}

void Toggle::flip() {
    session_.set(block_, param_, on() ? 0 : 1);
}

void Toggle::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Space || e->key() == Qt::Key_Return)
        return flip();
    QWidget::keyPressEvent(e);
}

void Toggle::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QRectF r = QRectF(rect()).adjusted(2, 2, -2, -2);
    p.setPen(QPen(hasFocus() ? tokens().saffron : tokens().ink2, hasFocus() ? px(2) : 1,
                  on() ? Qt::SolidLine : Qt::DashLine));
    p.setBrush(on() ? tokens().ok : tokens().card);
    p.drawRoundedRect(r, r.height() / 2, r.height() / 2);
    p.setPen(Qt::NoPen);
    p.setBrush(on() ? QColor("#FFFDF8") : tokens().ink2);
    const double d = r.height() - px(5);
    p.drawEllipse(QRectF(on() ? r.right() - d - px(2.5) : r.left() + px(2.5), r.center().y() - d / 2, d, d));
}

Card::Card(Session& session, const QString& block, QWidget* parent) : QFrame(parent), session_(session), block_(block) {
    setObjectName("card");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    build();
    fullWidth_ = sizeHint().width();
    setChosen(false);
}

void Card::setNarrow(bool narrow) {
    if (narrow == narrow_)
        return;
    narrow_ = narrow;
    build();
}

// All that is in it; what was there before goes when nobody is in the middle of using it.
void Card::build() {
    if (inner_) {
        inner_->hide();
        inner_->setParent(nullptr);
        inner_->deleteLater();
    }
    curve_ = nullptr;
    crossings_ = nullptr;
    bandRow_ = nullptr;
    moving_.clear();
    layout()->addWidget(inner_ = new QWidget);
    auto* box = new QVBoxLayout(inner_);
    narrow_ ? box->setContentsMargins(8, 6, 8, 8) : box->setContentsMargins(12, 6, 12, 8);
    box->setSpacing(Theme::get().ipx(4));
    const auto& b = *session_.program()->find(block_.toStdString());
    const auto* kind = engine::findKind(b.kind);
    buildHead(box, b, kind);
    if (!kind)
        box->addWidget(new QLabel("Made by a later version.\nIt is kept and stays silent."));
    else if (narrow_)
        buildNarrow(box, *kind);
    else
        buildFull(box, b, *kind);
    if (!curve_ && !crossings_ && !findChild<SlidersView*>() && moving_.empty())
        box->addStretch(1);
}

void Card::buildHead(QVBoxLayout* box, const engine::Block& b, const engine::BlockKind* kind) {
    auto* head = new QHBoxLayout;
    const QString name = kind ? (b.label.empty() ? q(kind->label) : q(b.label)) : "Unknown: " + q(b.kind);
    auto* title = narrow_ ? new ShortLabel(name) : new QLabel(name); // narrow: it gives way to its values
    title->setFont(Theme::get().text(12, true));
    title->setStyleSheet("font-weight: bold");
    if (kind) // all its fields
        makeParameterSource(title, [this] {
            return session_.device() ? "bead:" + q(session_.device()->id) + "/" + block_ : QString();
        });
    head->addWidget(title, 1);
    box->addLayout(head);
    setToolTip((kind ? (narrow_ ? name + "\n" : QString()) + q(kind->purpose) : name) + remarksText(b));
    if (kind) {
        const engine::BlockView view(b);
        for (const auto& spec : kind->shape)
            if (!narrow_)
                addShape(head, spec);
        if (!narrow_ && view.inputs() > 1 && !kind->channelwise())
            addAlign(head);
        if (view.table->indexOf("on") >= 0)
            head->addWidget(new Toggle(session_, block_, "on"));
    }
    addRemark(box, project::noteOf(b), tokens().ink);
    const std::string reason = project::protectionOf(b);
    addRemark(box, reason.empty() ? reason : "Protected: " + reason, tokens().caution);
}

// A line below the title; the tip has all of it.
void Card::addRemark(QVBoxLayout* box, const std::string& text, const QColor& colour) {
    if (text.empty())
        return;
    auto* line = new ShortLabel(q(text));
    line->setObjectName(block_ + ".remark");
    line->setStyleSheet("color: " + colour.name());
    box->addWidget(line);
}

void Card::buildFull(QVBoxLayout* box, const engine::Block& b, const engine::BlockKind& kind) {
    const engine::BlockView view(b);
    const bool graphic = b.kind == "graphic";
    if (kind.picture == engine::Picture::curve && !graphic) {
        curve_ = new CurveView(session_, block_);
        if (b.kind != "eq" && (view.table->specs().size() > 4 || kind.files > 0))
            moving_.push_back(curve_); // left of its values
        else
            box->addWidget(curve_, 1);
    } else if (auto* moving = picture())
        moving_.push_back(moving);
    if (!kind.readouts.empty())
        moving_.push_back(new HistoryView(session_, block_));
    if (graphic)
        buildSliders(box);
    else if (b.kind == "eq")
        buildBands(box);
    else if (kind.crosses)
        box->addWidget(crossings_ = new MatrixTable(session_, block_), 1);
    else
        buildParameters(box);
}

// What can be told at a glance: the picture of what has one, else its first values. A press on it brings the rest.
void Card::buildNarrow(QVBoxLayout* box, const engine::BlockKind& kind) {
    QWidget* shown = nullptr;
    if (kind.picture == engine::Picture::curve)
        shown = curve_ = new CurveView(session_, block_);
    else if (kind.picture != engine::Picture::notches)
        shown = picture();
    if (shown) {
        shown->setMinimumSize(0, 0);
        shown->setAttribute(Qt::WA_TransparentForMouseEvents);
        shown->setFocusPolicy(Qt::NoFocus);
        moving_.push_back(shown);
        return box->addWidget(shown, 1);
    }
    const auto& b = *session_.program()->find(block_.toStdString());
    const engine::BlockView view(b);
    constexpr int most = 3; // what a deck has the height for
    int rows = 0;
    for (const auto& s : view.table->specs()) {
        if (s.id == "on" || rows == most)
            continue;
        auto* label = new ShortLabel(q(s.label));
        label->setStyleSheet("color: " + tokens().ink2.name());
        auto* field = new ValueField(session_, block_, q(s.id));
        field->setMinimumWidth(1);
        box->addWidget(label);
        box->addWidget(field);
        ++rows;
    }
    if (const auto port = b.texts.find("port"); port != b.texts.end())
        box->addWidget(new QLabel(q(port->second)));
}

// For blocks at which lanes meet.
void Card::addAlign(QHBoxLayout* head) {
    auto* align = new QPushButton("Align lanes");
    align->setObjectName(block_ + ".align");
    align->setToolTip("Holds lanes that arrive early back until the latest has come, with Alignment blocks");
    connect(align, &QPushButton::clicked, this, [this] { session_.align(block_); });
    head->addWidget(align);
}

QWidget* Card::picture() {
    switch (engine::BlockView(*session_.program()->find(block_.toStdString())).kind->picture) {
    case engine::Picture::transfer:
        return new TransferView(session_, block_);
    case engine::Picture::lanes:
        return new LaneGainsView(session_, block_);
    case engine::Picture::bands:
    case engine::Picture::lines:
        return new LevelsView(session_, block_);
    case engine::Picture::notches:
        return notches();
    case engine::Picture::curve:
    case engine::Picture::none:
        break;
    }
    return nullptr;
}

// The notches, and below them a switch for each: one that may not be used is free.
QWidget* Card::notches() {
    auto* both = new QWidget;
    auto* box = new QVBoxLayout(both);
    box->setContentsMargins(0, 0, 0, 0);
    box->addWidget(new NotchView(session_, block_), 1);
    auto* row = new QHBoxLayout;
    auto* says = new QLabel("may be used");
    says->setStyleSheet("color: " + tokens().ink2.name());
    row->addWidget(says);
    const auto& b = *session_.program()->find(block_.toStdString());
    for (int n = 1; engine::BlockView(b).table->indexOf(std::to_string(n) + ".use") >= 0; ++n) {
        row->addWidget(new QLabel(QString::number(n)));
        auto* use = new Toggle(session_, block_, QString::number(n) + ".use");
        use->setAccessibleName(QString("Notch %1 may be used").arg(n));
        use->setToolTip(QString("Off frees notch %1 and keeps it free").arg(n));
        row->addWidget(use);
    }
    row->addStretch(1);
    box->addLayout(row);
    return both;
}

QString Card::pathOf(const QString& param) const {
    return session_.device() ? q(session_.device()->id) + "/" + block_ + "." + param : QString();
}

void Card::addRow(QGridLayout* grid, int row, int column, const QString& label, const QString& param) {
    auto* l = new QLabel(label);
    l->setStyleSheet("color: " + tokens().ink2.name());
    makeParameterSource(l, [this, param] { return pathOf(param); });
    auto* field = new ValueField(session_, block_, param);
    const auto* spec = field->spec();
    std::size_t longest = 0;
    if (spec)
        for (const auto& c : spec->choices)
            longest = std::max(longest, c.size());
    const bool wide = spec && (spec->unit == engine::Unit::quality || longest > 14);
    field->setFixedWidth(Theme::get().ipx(longest > 16 ? 164 : wide ? 140 : 108));
    grid->addWidget(l, row, column);
    grid->addWidget(field, row, column + 1, Qt::AlignRight);
}

void Card::buildParameters(QVBoxLayout* box) {
    auto* grid = new QGridLayout;
    grid->setVerticalSpacing(Theme::get().ipx(4));
    const engine::BlockView view(*session_.program()->find(block_.toStdString()));
    constexpr int rows = 6; // what a deck has room for; more go into further columns
    int row = 0;
    for (const auto& s : view.table->specs())
        if (s.id != "on" && !s.id.ends_with(".use")) {
            QString label = q(s.label);
            if (label.size() > 1 && !label[1].isUpper()) // "NOM attenuation" stays
                label[0] = label[0].toLower();
            addRow(grid, row % rows, row / rows * 2, label, q(s.id));
            ++row;
        }
    if (row > rows) // the port or file comes below the first column
        row = rows;
    if (view.kind->end != engine::End::none)
        addPort(grid, row++);
    if (view.kind->files > 0)
        addFiles(grid, row++);
    if (row == 0)
        grid->addWidget(new QLabel(q(view.kind->purpose)), 0, 0);
    if (moving_.empty())
        return box->addLayout(grid);
    auto* beside = new QHBoxLayout; // the picture left of its values: a deck is wide, not high
    for (auto* w : moving_)
        beside->addWidget(w, 1);
    auto* values = new QVBoxLayout;
    values->addLayout(grid);
    values->addStretch(1);
    beside->addLayout(values);
    box->addLayout(beside, 1);
}

void Card::addPort(QGridLayout* grid, int row) {
    const auto& b = *session_.program()->find(block_.toStdString());
    const auto at = b.texts.find("port");
    auto* ports = new ChoiceBox;
    ports->setObjectName(block_ + ".port");
    ports->setAccessibleName("Port of the device");
    ports->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon); // the list is as wide as it must
    ports->setMinimumContentsLength(6);
    ports->addItem(at == b.texts.end() ? QString("no port") : q(at->second));
    const std::string own = at == b.texts.end() ? "" : at->second;
    for (const auto& port : project::freePorts(*session_.device(), *engine::findKind(b.kind)))
        ports->addItem(q(port), q(port));
    for (const auto& other : session_.program()->blocks) // a port in use: the two exchange theirs
        if (const auto used = other.texts.find("port"); other.id != b.id && used != other.texts.end() &&
                                                        !used->second.empty() &&
                                                        engine::endOf(other) == engine::endOf(b))
            ports->addItem(q(used->second + " \u21c4 " + project::blockName(*session_.program(), other)),
                           q(used->second));
    connect(ports, &QComboBox::activated, this, [this, ports](int) {
        const QString port = ports->currentData().toString();
        if (!port.isEmpty())
            session_.setProgram(project::usePort(*session_.program(), block_.toStdString(), port.toStdString()),
                                "Use port " + port);
    });
    grid->addWidget(new QLabel("port"), row, 0);
    grid->addWidget(ports, row, 1, Qt::AlignRight);
}

// How many of it there are stands in the head: it is another block then, not another setting.
void Card::addShape(QHBoxLayout* head, const engine::ShapeSpec& spec) {
    auto* count = new QSpinBox;
    count->setObjectName(block_ + "." + q(spec.id));
    count->setAccessibleName(q(spec.label));
    count->setToolTip(QString("%1: %2 to %3").arg(q(spec.label)).arg(spec.min).arg(spec.max));
    count->setRange(spec.min, spec.max);
    count->setValue(engine::BlockView(*session_.program()->find(block_.toStdString())).shape.at(spec.id));
    count->setKeyboardTracking(false); // the whole number that was typed, not its first digit
    count->setAlignment(Qt::AlignRight);
    count->setFixedHeight(Theme::get().ipx(20));
    count->setStyleSheet(
        QString("font-family: 'JetBrains Mono'; font-size: %1px; background: %2; border: 1px solid %3; "
                "border-radius: 4px;")
            .arg(Theme::get().ipx(11))
            .arg(tokens().card.name(), tokens().hair.name()));
    count->setButtonSymbols(QAbstractSpinBox::NoButtons);
    count->setFixedWidth(Theme::get().ipx(spec.max > 99 ? 38 : 30));
    connect(count, &QSpinBox::valueChanged, this, [this, id = spec.id](int n) { session_.reshape(block_, id, n); });
    auto* label = new QLabel(q(spec.label).toLower());
    label->setStyleSheet("color: " + tokens().ink2.name());
    head->addWidget(label);
    head->addWidget(count);
}

void Card::addFiles(QGridLayout* grid, int row) {
    grid->addWidget(new FileList(session_, block_), row, 0, 1, 2);
}

void Card::buildSliders(QVBoxLayout* box) {
    auto* sliders = new SlidersView(session_, block_);
    box->addWidget(sliders, 1);
    auto* row = new QHBoxLayout;
    box->addLayout(row);
    const auto show = [this, sliders, row] {
        const auto* b = session_.program()->find(block_.toStdString());
        if (!b)
            return;
        while (auto* item = row->takeAt(0)) {
            if (item->widget())
                item->widget()->deleteLater();
            delete item;
        }
        const engine::BlockView view(*b);
        const int at = view.table->indexOf(sliders->param().toStdString());
        auto* name = new QLabel(q(view.table->specs()[static_cast<std::size_t>(at)].label));
        name->setStyleSheet("font-weight: bold");
        row->addWidget(name);
        row->addWidget(new ValueField(session_, block_, sliders->param()));
        row->addStretch(1);
        auto* flat = new QPushButton("all to 0");
        flat->setObjectName(block_ + ".flat");
        connect(flat, &QPushButton::clicked, this, [this] {
            std::map<std::string, double> values;
            const engine::BlockView now(*session_.program()->find(block_.toStdString()));
            for (const auto& s : now.table->specs())
                if (s.id != "on")
                    values[block_.toStdString() + "." + s.id] = 0;
            session_.setAll(values, "All sliders to 0");
        });
        row->addWidget(flat);
    };
    connect(sliders, &SlidersView::sliderChosen, this, show);
    show();
}

void Card::buildBands(QVBoxLayout* box) {
    bandRow_ = new QWidget;
    new QHBoxLayout(bandRow_);
    bandRow_->layout()->setContentsMargins(0, 0, 0, 0);
    box->addWidget(bandRow_);
    connect(curve_, &CurveView::bandChosen, this, &Card::showBand);
    auto* span = new ChoiceBox(curve_); // in the picture's corner, where it takes no room
    span->setObjectName(block_ + ".span");
    span->setAccessibleName("Response of this block, its chain or the whole path");
    span->setToolTip("What the blue curve shows  (C in the picture)");
    span->addItems({"this block", "its chain", "whole path"});
    span->setFocusPolicy(Qt::NoFocus);
    connect(span, &QComboBox::currentIndexChanged, this,
            [this](int i) { curve_->setSpan(static_cast<project::Span>(i)); });
    connect(curve_, &CurveView::spanWanted, this,
            [span] { span->setCurrentIndex((span->currentIndex() + 1) % span->count()); });
    auto* corner = new QHBoxLayout(curve_);
    corner->setContentsMargins(0, Theme::get().ipx(4), Theme::get().ipx(6), 0);
    corner->addWidget(span, 0, Qt::AlignTop | Qt::AlignRight);
    showBand(curve_->band());
}

void Card::showBand(int band) {
    band_ = band;
    auto* row = static_cast<QHBoxLayout*>(bandRow_->layout());
    while (auto* item = row->takeAt(0)) {
        if (item->widget())
            item->widget()->deleteLater();
        delete item;
    }
    if (!band) {
        row->addWidget(new QLabel("Double click in the picture puts a band there."));
        return;
    }
    const QString n = QString::number(band);
    auto* number = new QLabel(n);
    number->setStyleSheet("font-weight: bold");
    row->addWidget(number);
    row->addWidget(new Toggle(session_, block_, n + ".on"));
    auto* solo = new QPushButton("solo");
    solo->setObjectName(block_ + ".solo");
    solo->setToolTip("Hear this band alone while the bench runs, or no longer  (S in the picture)");
    connect(solo, &QPushButton::clicked, curve_, &CurveView::soloBand);
    row->addWidget(solo);
    const std::pair<const char*, int> fields[] = {{".kind", 84}, {".hz", 76}, {".gain", 72}, {".q", 132}};
    for (const auto& [field, width] : fields) {
        auto* f = new ValueField(session_, block_, n + field);
        f->setMinimumWidth(Theme::get().ipx(width));
        row->addWidget(f, 1);
    }
}

void Card::refresh() {
    for (auto* f : findChildren<ValueField*>())
        f->refresh();
    for (auto* t : findChildren<Toggle*>())
        t->update();
    if (curve_)
        curve_->update();
    if (crossings_)
        crossings_->refresh();
    for (auto* picture : findChildren<BlockPicture*>())
        picture->update();
}

void Card::refreshMeters() {
    for (auto* picture : findChildren<BlockPicture*>())
        picture->update();
    if (curve_ && bandRow_)
        curve_->setSpectrum(session_.block() == block_ ? session_.bench().spectrum({block_.toStdString(), 0})
                                                       : std::vector<double>{});
}

bool Card::wide() const {
    return !moving_.empty() || curve_ || crossings_ || findChild<SlidersView*>();
}

void Card::setChosen(bool chosen) {
    setStyleSheet(QString("#card { background: %1; border: %2px solid %3; border-radius: 8px; } #card QLabel { "
                          "background: transparent; }")
                      .arg(tokens().card.name())
                      .arg(chosen ? 2 : 1)
                      .arg((chosen ? tokens().ink : tokens().hair).name()));
}

void Card::takeFocus() {
    if (bandRow_)
        return curve_->setFocus();
    if (auto* sliders = findChild<SlidersView*>())
        return sliders->setFocus();
    if (auto* f = findChild<ValueField*>()) {
        f->setFocus();
        f->selectAll();
    }
}

void Card::mousePressEvent(QMouseEvent*) {
    session_.choose(session_.lane(), session_.lane() == block_ ? QString() : block_);
}

} // namespace loom::app

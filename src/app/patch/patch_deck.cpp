#include "app/patch/patch_deck.h"
#include "app/field_form.h"
#include "app/shell/row_or_stack.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "disk/safe_file.h"
#include "patch/clock.h"
#include "patch/figures.h"
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QListWidget>
#include <QPainter>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QVBoxLayout>

namespace loom::app {

using namespace project;

namespace {

QString html(const std::string& text) {
    return q(text).toHtmlEscaped();
}

QIcon dot(const QColor& colour) {
    QPixmap map(Theme::get().ipx(10), Theme::get().ipx(10));
    map.fill(Qt::transparent);
    QPainter p(&map);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(Qt::NoPen);
    p.setBrush(colour);
    p.drawEllipse(QRectF(map.rect()).adjusted(1, 1, -1, -1));
    return map;
}

QString ms(double value) {
    return QString("%1 ms").arg(value, 0, 'f', 2);
}

} // namespace

PatchDeck::PatchDeck(PatchState& state, PatchEar& ear, QWidget* parent)
    : QWidget(parent), state_(state), ear_(ear), title_(new QLabel), words_(new QLabel), clock_(new QLabel),
      takes_(new QLabel), hears_(new QListWidget), description_(new QPlainTextEdit),
      align_(new QPushButton("Give all the same delay")), save_(new QPushButton("Save as SDP\u2026")) {
    setObjectName("patchDeck");
    setAccessibleName("Deck: what is chosen of the patch");
    setAutoFillBackground(true);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(12, 4, 12, 4);
    auto* head = new QHBoxLayout;
    head->addWidget(title_);
    words_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    head->addWidget(words_, 1);
    box->addLayout(head);
    auto* row = new RowOrStack(760);
    box->addWidget(row, 1);
    form_ = new FieldForm(
        [this]() -> std::vector<Field> {
            if (wiring_)
                return wireFields(state_.project(), state_.wire());
            if (!state_.thread().empty())
                return receiverFields(state_.project(), state_.thread());
            return state_.offer() ? streamFields(state_.project(), state_.rows().back()) : std::vector<Field>{};
        },
        [this](const std::string& field, const std::string& value) {
            if (wiring_)
                return state_.run(setWireField(state_.project(), state_.wire(), field, value));
            if (!state_.thread().empty())
                return state_.run(setReceiverField(state_.project(), state_.thread(), field, value));
            return state_.run(setStreamField(state_.project(), state_.rows().back(), field, value));
        });
    form_->setObjectName("patchForm");
    connect(form_, &FieldForm::wantsBack, this, &PatchDeck::wantsBack);
    hears_->setObjectName("patchHears");
    hears_->setAccessibleName("Who hears it");
    takes_->setTextFormat(Qt::RichText);
    takes_->setWordWrap(true);
    takes_->setObjectName("patchTakes");
    clock_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    description_->setReadOnly(true);
    description_->setFrameShape(QFrame::NoFrame);
    description_->setAccessibleName("Description of the stream");
    description_->setObjectName("patchDescription");
    description_->setTabChangesFocus(true);
    align_->setObjectName("patchAlign");
    save_->setObjectName("patchSave");
    const auto column = [&](int n, std::initializer_list<QWidget*> widgets, int stretch, QWidget* atHead = nullptr) {
        auto* layout = new QVBoxLayout;
        layout->setSpacing(3);
        auto* line = new QHBoxLayout;
        line->addWidget(heads_[n] = new QLabel, 1);
        if (atHead)
            line->addWidget(atHead);
        layout->addLayout(line);
        for (auto* w : widgets)
            layout->addWidget(w, w == *widgets.begin() ? 1 : 0);
        row->add(layout, stretch);
    };
    column(0, {form_}, 3);
    column(1, {hears_, clock_, align_}, 4);
    auto* takes = new QScrollArea;
    takesArea_ = takes;
    takes->setWidget(takes_);
    takes->setWidgetResizable(true);
    takes->setFrameShape(QFrame::NoFrame);
    takes->viewport()->setAutoFillBackground(false);
    takes_->setAutoFillBackground(false);
    takes_->setAlignment(Qt::AlignTop);
    column(2, {takes}, 3);
    column(3, {description_}, 4, save_);
    connect(hears_, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) {
        const auto key = item->data(Qt::UserRole).toString().toStdString();
        for (const auto& t : state_.board().threads)
            if (!wiring_ && (t.receiver.empty() ? t.lead : t.receiver) == key)
                return state_.chooseThread(t);
    });
    connect(takes_, &QLabel::linkActivated, this, [this](const QString& link) {
        const auto parts = link.split('/');
        if (parts.size() == 3 && !state_.choosePort({parts[0].toStdString(), parts[1].toStdString(), parts[2] == "in"}))
            state_.session().report("Nothing of Patch is there: it is a matter of that device's program.", false);
    });
    connect(align_, &QPushButton::clicked, this, [this] { state_.align(); });
    connect(save_, &QPushButton::clicked, this, &PatchDeck::saveDescription);
    connect(&state, &PatchState::changed, this, &PatchDeck::refresh);
    connect(&state, &PatchState::chosen, this, &PatchDeck::refresh);
    connect(&Theme::get(), &Theme::changed, this, &PatchDeck::refresh);
}

void PatchDeck::showWiring(bool on) {
    wiring_ = on;
    refresh();
}

void PatchDeck::takeFocus() {
    form_->takeFocus();
}

void PatchDeck::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    refresh();
}

void PatchDeck::refresh() {
    if (!isVisible()) // it is filled when it is shown
        return;
    QPalette pal = palette();
    pal.setColor(QPalette::Window, tokens().linen);
    setPalette(pal);
    title_->setStyleSheet(QString("font-weight: bold; font-size: %1px; padding-right: 8px").arg(Theme::get().ipx(13)));
    words_->setStyleSheet("color: " + tokens().ink2.name());
    for (auto* h : heads_)
        h->setStyleSheet("font-weight: bold");
    clock_->setStyleSheet(QString("color: %1; font-size: %2px").arg(tokens().ink2.name()).arg(Theme::get().ipx(11)));
    description_->setStyleSheet(
        QString("background: transparent; font-family: 'JetBrains Mono'; font-size: %1px").arg(Theme::get().ipx(10)));
    hears_->setFont(Theme::get().text(11));
    for (auto* w : std::initializer_list<QWidget*>{takesArea_, hears_, description_, form_})
        w->setMinimumHeight(Theme::get().ipx(72));
    hears_->clear();
    wiring_ ? fillWire() : fillStream();
    form_->refresh();
}

// Of an input: back over streams, programs and cables to where its sound begins.
QString PatchDeck::cameFrom() {
    const auto port = state_.port();
    if (!port || !port->input)
        return {};
    const auto way =
        state_.ways().back(port->device, port->port, true, [this](const auto& device, const auto& at, bool in) {
            return ear_.level({device, at, in});
        });
    QString text;
    for (std::size_t n = 0; n < way.size(); ++n) {
        const auto& one = way[n];
        const QString name = html(wordsOf(state_.project(), one));
        text +=
            QString("<div style='color:%1'>%2%3%4%5</div>")
                .arg(tokens().ink2.name(), n == 0 ? "at " : "\u2190 ",
                     n == 0 ? name
                            : QString("<a style='color:%1' href='%2/%3/%4'>%5</a>")
                                  .arg(tokens().ink.name(), q(one.device), q(one.port), one.input ? "in" : "out", name),
                     one.db ? QString(" %1 dBFS").arg(*one.db, 0, 'f', 1).replace('-', u'\u2212') : QString(),
                     n > 0 && way[n - 1].others > 0 ? QString(", one of %1 that come there").arg(way[n - 1].others + 1)
                                                    : QString());
    }
    return text;
}

void PatchDeck::fillStream() {
    const auto* o = state_.offer();
    const bool thread = !state_.thread().empty() && state_.patched().hearing(state_.thread());
    heads_[0]->setText(thread ? "Receiver" : "Stream");
    heads_[1]->setText("Who hears it");
    heads_[2]->setText(thread ? "Where it comes from, what it takes" : "What it takes");
    heads_[3]->setText("Description");
    form_->setNone(o ? "" : "Choose a stream on the left, or an input on the right.");
    for (auto* w : std::initializer_list<QWidget*>{align_, clock_})
        w->setVisible(o);
    save_->setVisible(o && o->transport == Transport::network);
    if (!o) {
        const auto* d = state_.project().device(state_.taker());
        title_->setText(d ? q(d->name) : QString("Patch"));
        words_->setText(d ? QString("takes what its inputs show. Drag a stream onto it, or type where it goes.")
                          : QString("Streams on the left are heard on the right. Drag from one to the other."));
        takes_->setText(cameFrom());
        description_->clear();
        return;
    }
    title_->setText(q(o->stream->name));
    words_->setText(QString("offered by %1, heard by %2. Del takes a receiver off, Shift+Del the whole stream.")
                        .arg(q(o->device->name))
                        .arg(o->heardBy.size()));
    for (const auto n : o->heardBy) {
        const auto& h = state_.patched().hearings[n];
        const auto* d = state_.cutWired().delivery(n);
        QString ports, state = "waits";
        for (const auto& in : h.receiver->inputs)
            if (!in.empty())
                ports += (ports.isEmpty() ? "" : ", ") + q(in);
        QColor colour = tokens().caution;
        if (d && d->runs) {
            const auto late = delayOf(state_.project(), state_.patched(), state_.cutWired(), *d);
            state = late.late() ? ms(late.total()) + ", too short" : ms(late.total());
            colour = late.late() ? tokens().fault : tokens().ok;
        } else if (d) {
            state = q(d->why);
        }
        auto* item = new QListWidgetItem(dot(colour), QString("%1   %2   %3").arg(q(h.device->name), ports, state));
        if (colour != tokens().ok)
            item->setForeground(colour);
        item->setToolTip(item->text());
        item->setData(Qt::UserRole, q(h.key));
        hears_->addItem(item);
        if (h.key == state_.thread())
            hears_->setCurrentItem(item);
    }
    align_->setEnabled(o->heardBy.size() > 1);
    QString leads;
    for (const auto& c : clocksOf(state_.project(), state_.wired()))
        for (const int n : c.order)
            if (&state_.project().devices[static_cast<std::size_t>(n)] == state_.project().device(o->device->id)) {
                if (c.leads)
                    leads = QString("Clock: %1 leads")
                                .arg(q(state_.project().devices[static_cast<std::size_t>(c.order[0])].name));
                if (c.leads && c.order.size() > 1)
                    leads += QString("; if it goes, %1.")
                                 .arg(q(state_.project().devices[static_cast<std::size_t>(c.order[1])].name));
            }
    clock_->setText(o->transport == Transport::network ? leads : QString());
    clock_->setToolTip(clock_->text());
    QString table = cameFrom() + "<table width='100%' cellspacing='2'>";
    for (const auto& f : figuresOf(state_.project(), state_.patched(), state_.wired(), *o))
        table +=
            QString("<tr><td style='color:%1'>%2</td><td align='right' style='color:%3'><b>%4</b></td></tr>")
                .arg(tokens().ink2.name(), html(f.what), (f.bad ? tokens().fault : tokens().ink).name(), html(f.value));
    takes_->setText(table + "</table>");
    description_->setPlainText(o->transport == Transport::network
                                   ? q(stream::sdpText(o->description))
                                   : QString("It goes round the ring, without packets."));
}

void PatchDeck::fillWire() {
    heads_[0]->setText("Cable");
    heads_[1]->setText("What goes over it");
    heads_[2]->setText("If it is cut");
    heads_[3]->setText(state_.cut().none() ? "Nothing is cut" : "As it is cut");
    align_->hide();
    save_->hide();
    clock_->hide();
    form_->setNone("Choose a cable. X cuts it for a try; drag from device to device to draw one.");
    const auto& all = state_.patched();
    const auto name = [&](std::size_t hearing) {
        const auto& h = all.hearings[hearing];
        return (h.offer < 0 ? h.stream : all.offers[static_cast<std::size_t>(h.offer)].stream->name) + " \u2192 " +
               h.device->name;
    };
    const Wire* wire = nullptr;
    for (const auto& w : state_.project().wires)
        if (w.id == state_.wire())
            wire = &w;
    title_->setText(wire ? q(wire->number.empty() ? wire->id : wire->number) : QString("Wiring"));
    words_->setText(wire ? q(wire->from + " to " + wire->to)
                         : QString("%1 cables. Choose one, or drag from device to device to draw one.")
                               .arg(state_.project().wires.size()));
    QString then;
    if (wire) {
        int silent = 0, moved = 0;
        for (const auto& line : linesOver(state_.project(), all, state_.wired(), state_.cut(), wire->id)) {
            auto* item = new QListWidgetItem((line.there ? "\u2192 " : "\u2190 ") + q(name(line.hearing)));
            hears_->addItem(item);
            silent += line.cut == WireLine::silent;
            moved += line.cut == WireLine::moved;
            then +=
                QString("<div style='color:%1'>%2 %3</div>")
                    .arg((line.cut == WireLine::silent ? tokens().fault : tokens().caution).name(),
                         html(name(line.hearing)), line.cut == WireLine::silent ? "falls silent" : "goes another way");
        }
        if (hears_->count() == 0)
            then = "<div>Nothing changes: no sound goes over it.</div>";
    }
    takes_->setText(then);
    QString now;
    for (const auto& e : state_.effects())
        now += q(name(e.hearing)) + (e.silent ? ": silent" : ": another way") + "\n";
    if (!state_.cut().none() && now.isEmpty())
        now = "Nothing changes.";
    description_->setPlainText(now);
}

void PatchDeck::saveDescription() {
    const auto* o = state_.offer();
    if (!o || o->transport != Transport::network)
        return;
    const QString file = QFileDialog::getSaveFileName(this, "Save the description", q(o->stream->name) + ".sdp",
                                                      "Session description (*.sdp)");
    if (!file.isEmpty())
        writeDescription(file);
}

bool PatchDeck::writeDescription(const QString& file) {
    const auto* o = state_.offer();
    const auto done = writeWhole(file.toStdString(), stream::sdpText(o->description), false);
    if (!done)
        state_.session().report(done.error());
    else
        state_.session().report("Written to " + file, false);
    return bool(done);
}

} // namespace loom::app

#include "app/surfaces/surfaces_deck.h"
#include "app/field_form.h"
#include "app/shell/row_or_tabs.h"
#include "app/surfaces/surface_painter.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "surface/look.h"
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QVBoxLayout>

namespace loom::app {

using namespace project;

namespace {

const std::vector<std::string> placeFields{"x", "y", "width", "height", "locked", "through"},
    lookFields{"fill",  "edge", "ink",   "accent",  "corner",      "edgeWidth",   "textSize",
               "align", "icon", "shape", "corners", "touchedFill", "touchedEdge", "always",
               "off",   "on",   "mixed", "unknown", "held"},
    doesFields{"text", "param", "low", "high", "digits", "value", "page", "ply", "shown", "enabled", "confirm", "name"};
const char* const colourFields[] = {"fill", "accent", "ink", "edge"};
const char* const colourNames[] = {"Fill", "On", "Text", "Edge"};

std::vector<Field> only(std::vector<Field> all, const std::vector<std::string>& ids) {
    std::vector<Field> some;
    for (const auto& id : ids)
        for (const auto& f : all)
            if (f.id == id)
                some.push_back(f);
    return some;
}

} // namespace

SurfacesDeck::SurfacesDeck(SurfacesState& state, QWidget* parent)
    : QWidget(parent), state_(state), title_(new QLabel), ofControls_(new RowOrTabs(900)), ofPage_(new RowOrTabs(700)),
      colours_(new ColourCard(state)) {
    setObjectName("surfacesDeck");
    setAccessibleName("Deck: fields of what is chosen on the page");
    setAutoFillBackground(true);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(12, 6, 12, 6);
    box->addWidget(title_);
    ofControls_->add("Place", form("controlPlace", placeFields), 3);
    ofControls_->add("What it does", form("controlDoes", doesFields), 4);
    ofControls_->add("Look", form("controlLook", lookFields), 3);
    ofControls_->add("Colours", colours_, 2);
    const auto card = [&](const char* name, const char* id, FieldForm::Read read, FieldForm::Write write) {
        auto* f = new FieldForm(std::move(read), std::move(write));
        f->setObjectName(id);
        connect(f, &FieldForm::wantsBack, this, &SurfacesDeck::wantsBack);
        forms_.push_back(f);
        ofPage_->add(name, f, 1);
    };
    card(
        "Page", "pageFields",
        [this] { return state_.page() ? pageFields(*state_.surface(), *state_.page()) : std::vector<Field>{}; },
        [this](const std::string& f, const std::string& v) { return state_.edit(setPageField(state_.place(), f, v)); });
    card(
        "Ply", "plyFields",
        [this] {
            const auto* ply = state_.ply()                                     ? state_.ply()
                              : state_.page() && !state_.page()->plies.empty() ? &state_.page()->plies.back()
                                                                               : nullptr;
            return ply ? plyFields(*state_.page(), ply->id) : std::vector<Field>{};
        },
        [this](const std::string& f, const std::string& v) {
            const auto* ply = state_.ply() ? state_.ply() : &state_.page()->plies.back();
            return state_.edit(setPlyField(state_.place(), ply->id, f, v));
        });
    card(
        "Surface", "surfaceFields",
        [this] { return state_.surface() ? surfaceFields(*state_.surface()) : std::vector<Field>{}; },
        [this](const std::string& f, const std::string& v) {
            return state_.edit(setSurfaceField(state_.place().surface, f, v));
        });
    box->addWidget(ofControls_, 1);
    box->addWidget(ofPage_, 1);
    connect(&state, &SurfacesState::changed, this, &SurfacesDeck::refresh);
    connect(&state, &SurfacesState::chosenChanged, this, &SurfacesDeck::refresh);
    connect(&Theme::get(), &Theme::changed, this, &SurfacesDeck::refresh);
    refresh();
}

FieldForm* SurfacesDeck::form(const char* id, const std::vector<std::string>& fields) {
    auto* f = new FieldForm(
        [this, &fields] {
            return state_.page() ? only(controlFields(*state_.surface(), *state_.page(), state_.chosen()), fields)
                                 : std::vector<Field>{};
        },
        [this](const std::string& field, const std::string& value) {
            return field == "param" && !value.empty()
                       ? state_.edit(driveFrom(state_.project(), state_.place(), state_.chosen(), value))
                       : state_.edit(setControlField(state_.place(), state_.chosen(), field, value));
        });
    f->setObjectName(id);
    connect(f, &FieldForm::wantsBack, this, &SurfacesDeck::wantsBack);
    forms_.push_back(f);
    return f;
}

void SurfacesDeck::takeFocus() {
    for (auto* f : forms_)
        if (f->isVisible())
            return f->takeFocus();
}

void SurfacesDeck::refresh() {
    QPalette pal = palette();
    pal.setColor(QPalette::Window, tokens().linen);
    setPalette(pal);
    title_->setFont(Theme::get().text(13, true));
    const auto n = state_.chosen().size();
    const auto* c = state_.leading();
    const auto* kind = c ? findControlKind(c->kind) : nullptr;
    const auto drive = c ? controlDrive(state_.project(), c->param) : std::nullopt;
    const QString lead = c ? q(labelOf(*c, drive ? &*drive : nullptr)) : QString();
    title_->setText(n == 0   ? (state_.page() ? q(state_.page()->name) + ": the page, its ply, the surface" : QString())
                    : n == 1 ? (kind ? q(kind->label) : QString("Control")) + (lead.isEmpty() ? "" : " \u00b7 " + lead)
                             : QString("%1 controls chosen. %2 leads (drawn double): the others line up with it.")
                                   .arg(n)
                                   .arg(lead.isEmpty() ? "The first" : lead));
    ofControls_->setVisible(n > 0);
    ofPage_->setVisible(n == 0);
    for (auto* f : forms_)
        f->refresh();
    colours_->update();
}

// ---- colours ----

ColourCard::ColourCard(SurfacesState& state, QWidget* parent) : QWidget(parent), state_(state) {
    setObjectName("colourCard");
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName("Colours of the chosen controls");
    setMinimumWidth(Theme::get().ipx(190));
}

QSize ColourCard::sizeHint() const {
    return {Theme::get().ipx(210), Theme::get().ipx(160)};
}

std::vector<Colour> ColourCard::all() const {
    std::vector<Colour> colours;
    for (const char* thread : threadColours)
        colours.push_back(*readColour(thread));
    const auto* page = state_.page();
    if (!page)
        return colours;
    std::vector<Colour> here;
    const auto add = [&](const std::string& text) {
        const auto c = text.empty() ? Result<Colour>(Error{}) : readColour(text);
        if (c && c->a > 0 && std::find(here.begin(), here.end(), *c) == here.end() && here.size() < 8)
            here.push_back(*c);
    };
    const auto base = paintOf(*state_.surface(), *page);
    here = {base.page, base.fill, base.ink, base.accent};
    for (const auto& ply : page->plies)
        for (const auto& c : ply.controls)
            for (const auto* text : {&c.look.fill, &c.look.accent, &c.look.ink, &c.look.edge})
                add(*text);
    colours.insert(colours.end(), here.begin(), here.end());
    return colours;
}

QRectF ColourCard::tab(int which) const {
    const double wide = std::min(px(52), (width() - px(4)) / 4.0);
    return {px(2) + which * wide, 0, wide - px(3), px(22)};
}

QRectF ColourCard::swatch(int which) const {
    const double wide = std::min(px(44), (width() - px(4)) / 4.0);
    const int row = which / 4;
    return {px(2) + (which % 4) * wide, px(28) + row * px(24) + (which >= 8 ? px(16) : 0), wide - px(4), px(20)};
}

void ColourCard::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    for (int i = 0; i < 4; ++i) {
        p.setPen(QPen(i == what_ ? tokens().saffron : tokens().hair, px(1.2)));
        p.setBrush(i == what_ ? tokens().saffronTint : tokens().card);
        p.drawRoundedRect(tab(i), px(5), px(5));
        p.setPen(tokens().ink);
        p.setFont(Theme::get().text(10, i == what_));
        p.drawText(tab(i), Qt::AlignCenter, colourNames[i]);
    }
    const auto colours = all();
    p.setFont(Theme::get().text(10));
    p.setPen(tokens().ink2);
    if (colours.size() > 8)
        p.drawText(QPointF(px(2), swatch(8).top() - px(5)), "on this page");
    const auto* c = state_.leading();
    std::string now;
    if (c)
        now = what_ == 0 ? c->look.fill : what_ == 1 ? c->look.accent : what_ == 2 ? c->look.ink : c->look.edge;
    for (std::size_t i = 0; i < colours.size(); ++i) {
        const auto at = swatch(static_cast<int>(i));
        p.setPen(QPen(colours[i].text() == now ? tokens().saffron : tokens().hair,
                      colours[i].text() == now ? px(2.5) : px(1)));
        p.setBrush(qcolor(colours[i]));
        p.drawRoundedRect(at, px(4), px(4));
        if (hasFocus() && static_cast<int>(i) == current_) {
            p.setPen(QPen(tokens().ink, px(1.5), Qt::DotLine));
            p.setBrush(Qt::NoBrush);
            p.drawRoundedRect(at.adjusted(-px(2), -px(2), px(2), px(2)), px(5), px(5));
        }
    }
    if (c) {
        const auto paint = paintOf(*state_.surface(), *state_.page(), *c);
        const auto& is = what_ == 0 ? paint.fill : what_ == 1 ? paint.accent : what_ == 2 ? paint.ink : paint.edge;
        const auto lch = oklchOf(is);
        p.setPen(tokens().ink);
        p.setFont(Theme::get().number(10));
        p.drawText(
            QPointF(px(2), swatch(static_cast<int>(colours.size()) - 1).bottom() + px(18)),
            QString("L %1 C %2 H %3").arg(lch[0] * 100, 0, 'f', 0).arg(lch[1], 0, 'f', 2).arg(lch[2], 0, 'f', 0));
    }
}

void ColourCard::take(int which) {
    const auto colours = all();
    if (which >= 0 && which < static_cast<int>(colours.size()) && !state_.chosen().empty())
        state_.edit(setControlField(state_.place(), state_.chosen(), colourFields[what_],
                                    colours[static_cast<std::size_t>(which)].text()));
}

void ColourCard::mousePressEvent(QMouseEvent* e) {
    for (int i = 0; i < 4; ++i)
        if (tab(i).contains(e->position()))
            what_ = i;
    for (int i = 0; i < static_cast<int>(all().size()); ++i)
        if (swatch(i).contains(e->position())) {
            current_ = i;
            take(i);
        }
    update();
}

void ColourCard::keyPressEvent(QKeyEvent* e) {
    const int n = static_cast<int>(all().size());
    if (e->key() == Qt::Key_Right)
        current_ = std::min(n - 1, current_ + 1);
    else if (e->key() == Qt::Key_Left)
        current_ = std::max(0, current_ - 1);
    else if (e->key() == Qt::Key_Down)
        current_ = std::min(n - 1, current_ + 4);
    else if (e->key() == Qt::Key_Up)
        current_ = std::max(0, current_ - 4);
    else if (e->key() >= Qt::Key_1 && e->key() <= Qt::Key_4)
        what_ = e->key() - Qt::Key_1;
    else if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Space)
        take(current_);
    else
        return QWidget::keyPressEvent(e);
    update();
}

} // namespace loom::app

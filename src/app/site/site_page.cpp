#include "app/site/site_page.h"
#include "app/shell/choice_box.h"
#include "app/shell/flow_layout.h"
#include "app/site/device_panel.h"
#include "app/site/differences_table.h"
#include "app/site/health_board.h"
#include "app/site/log_panel.h"
#include "app/site/pairing_view.h"
#include "app/site/seal_panel.h"
#include "app/site/todo_list.h"
#include "app/text.h"
#include "app/theme/style.h"
#include "client/situation.h"
#include "disk/safe_file.h"
#include "site/board_image.h"
#include <QFileDialog>
#include <QLabel>
#include <QLineEdit>
#include <QNetworkInterface>
#include <QProgressBar>
#include <QPushButton>
#include <QSettings>
#include <QSplitter>
#include <QStackedWidget>
#include <QStyle>
#include <QVBoxLayout>

namespace loom::app {
namespace {

constexpr const char* rigRange = "127.20.4.0/24";

QPushButton* button(const QString& text, const char* name, const QString& tip = {}) {
    auto* b = new QPushButton(text);
    b->setObjectName(name);
    b->setToolTip(tip);
    return b;
}

void emphasise(QPushButton* b, bool main) {
    if (b->property("main").toBool() == main)
        return;
    b->setProperty("main", main);
    b->style()->unpolish(b);
    b->style()->polish(b);
}

} // namespace

SitePage::SitePage(Session& session, QWidget* parent)
    : QWidget(parent), session_(session), fleet_(session), range_(new ChoiceBox), address_(new QLineEdit),
      summary_(new QLabel), title_(new QLabel), question_(new QLabel), asking_(new QWidget), working_(new QWidget),
      split_(new QSplitter(Qt::Vertical)), pairing_(new PairingView(fleet_)), panels_(new QStackedWidget),
      todo_(new TodoList(fleet_)), differences_(new DifferencesTable(fleet_)), device_(new DevicePanel(fleet_)),
      seal_(new SealPanel(fleet_)), health_(new HealthBoard(fleet_)), log_(new LogPanel(fleet_)),
      progress_(new QProgressBar) {
    setObjectName("site");
    setAccessibleName("Site: planned and found devices");
    range_->setEditable(true);
    range_->setObjectName("range");
    range_->addItem(QString("lo \u00b7 %1 (rig)").arg(rigRange), rigRange);
    for (const auto& i : QNetworkInterface::allInterfaces())
        for (const auto& e : i.addressEntries())
            if (e.ip().protocol() == QAbstractSocket::IPv4Protocol && !e.ip().isLoopback()) {
                const int bits = std::clamp(e.prefixLength(), 22, 30); // a larger one is asked in parts, as typed
                const QString net = q(site::addressText(e.ip().toIPv4Address() & ~((1u << (32 - bits)) - 1))) +
                                    QString("/%1").arg(bits);
                range_->addItem(i.name() + " \u00b7 " + net, net);
            }
    range_->setAccessibleName("Network adapter, or a range such as 10.20.4.0/24");
    range_->setMinimumContentsLength(24);
    address_->setPlaceholderText("or an address or name, Enter");
    address_->setAccessibleName("Address or name of a device");
    look_ = button("Look again", "Look again", "Asks every device on the chosen adapter (F6)");
    pair_ = button("Pair by model and name", "pairAll",
                   "Pairs every planned device with the one found that fits it for certain");
    rest_ = button("Pair the rest by position", "pairRest",
                   "What is left of a model: in the order of the plan and of the addresses. Look at each afterwards");
    try_ = button("Try it", "tryIt", "The chosen devices, or all, run the design; lost at power-off (Ctrl+Return)");
    keep_ = button("Keep through power-off", "keep", "They boot with what runs now (Ctrl+Shift+Return)");
    take_ = button("Take from device", "take", "What the devices are told becomes the design; nothing is sent");
    back_ = button("Go back", "goBack");
    live_ = button("Go live", "live", "What you change reaches the devices at once, and the other way (Ctrl+L)");
    cycle_ = button("Power-cycle", "powerCycle");
    cancel_ = button("Cancel", "cancelWork");

    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(0);
    const auto inset = [box](QLayout* row) { // a flow knows no margins
        auto* around = new QHBoxLayout;
        around->setContentsMargins(14, 6, 14, 2);
        around->addLayout(row);
        box->addLayout(around);
    };
    auto* head = new FlowLayout;
    for (auto* w : {static_cast<QWidget*>(new QLabel("Network adapter")), static_cast<QWidget*>(range_),
                    static_cast<QWidget*>(look_), static_cast<QWidget*>(address_), static_cast<QWidget*>(pair_),
                    static_cast<QWidget*>(rest_), static_cast<QWidget*>(summary_)})
        head->addWidget(w);
    inset(head);

    auto* asked = new FlowLayout;
    auto* around = new QHBoxLayout(asking_);
    around->setContentsMargins(14, 4, 14, 4);
    around->addLayout(asked);
    question_->setText("Which network are the devices on?");
    asked->addWidget(question_);
    for (int i = 0; i < range_->count(); ++i) {
        auto* b = button(range_->itemText(i), "");
        b->setObjectName("adapter." + range_->itemData(i).toString());
        asked->addWidget(b);
        connect(b, &QPushButton::clicked, this, [this, i] {
            range_->setCurrentIndex(i);
            look();
        });
    }
    box->addWidget(asking_);

    auto* lower = new QWidget;
    lower->setObjectName("siteLower");
    lower->setAutoFillBackground(true);
    auto* deck = new QVBoxLayout(lower);
    deck->setContentsMargins(14, 6, 14, 8);
    deck->setSpacing(4);
    auto* tabs = new FlowLayout(4);
    const std::pair<const char*, const char*> names[] = {{"To do", "tabTodo"},    {"Differences", "tabDifferences"},
                                                         {"Device", "tabDevice"}, {"Seal", "tabSeal"},
                                                         {"Health", "tabHealth"}, {"Events", "tabEvents"}};
    for (const auto& [text, name] : names) {
        auto* b = button(text, name);
        b->setCheckable(true);
        const int panel = static_cast<int>(tabs_.size());
        connect(b, &QPushButton::clicked, this, [this, panel] { showPanel(panel); });
        tabs_.push_back(b);
        tabs->addWidget(b);
    }
    tabs->addWidget(title_);
    deck->addLayout(tabs);
    for (QWidget* w :
         {static_cast<QWidget*>(todo_), static_cast<QWidget*>(differences_), static_cast<QWidget*>(device_),
          static_cast<QWidget*>(seal_), static_cast<QWidget*>(health_), static_cast<QWidget*>(log_)})
        panels_->addWidget(w);
    deck->addWidget(panels_, 1);
    auto* progress = new FlowLayout;
    progress->setContentsMargins(0, 0, 0, 0);
    working_->setLayout(progress);
    progress_->setMinimumWidth(260);
    progress->addWidget(progress_);
    progress->addWidget(cancel_);
    working_->hide();
    deck->addWidget(working_);
    auto* foot = new FlowLayout;
    for (auto* b : {try_, keep_, take_, back_, live_, cycle_})
        foot->addWidget(b);
    deck->addLayout(foot);
    split_->addWidget(pairing_);
    split_->addWidget(lower);
    split_->setStretchFactor(0, 3);
    split_->setStretchFactor(1, 2);
    split_->setChildrenCollapsible(false);
    box->addWidget(split_, 1);

    connect(look_, &QPushButton::clicked, this, &SitePage::look);
    connect(range_->lineEdit(), &QLineEdit::returnPressed, this, &SitePage::look);
    connect(address_, &QLineEdit::returnPressed, this,
            [this] { fleet_.addAddress(address_->text().trimmed().toStdString()); });
    connect(pair_, &QPushButton::clicked, this, &SitePage::pairAll);
    connect(rest_, &QPushButton::clicked, this, &SitePage::pairByPosition);
    connect(try_, &QPushButton::clicked, this, &SitePage::tryNow);
    connect(keep_, &QPushButton::clicked, this, &SitePage::keep);
    connect(take_, &QPushButton::clicked, this, &SitePage::takeFromDevice);
    connect(back_, &QPushButton::clicked, this, &SitePage::goBack);
    connect(live_, &QPushButton::clicked, this, [this] { setLive(!fleet_.live()); });
    connect(cycle_, &QPushButton::clicked, this, &SitePage::powerCycle);
    connect(cancel_, &QPushButton::clicked, this, [this] { fleet_.work().cancel(); });
    connect(health_, &HealthBoard::chosen, this,
            [this](const QString& device) { pairing_->choose({device.toStdString()}); });
    connect(pairing_, &PairingView::choiceChanged, this, [this] {
        shown_ = meant();
        differences_->show(shown_);
        seal_->show(shown_);
        const auto own = pairing_->chosen();
        device_->show(own.empty() ? "" : own.front(), pairing_->chosenFound());
        if (panels_->currentIndex() == todoPanel && (!own.empty() || !pairing_->chosenFound().empty())) {
            const auto* m = own.empty() ? nullptr : fleet_.member(own.front());
            openPanel((m && !m->rows.empty()) || own.size() > 1 ? differencesPanel : devicePanel);
        }
        refresh();
    });
    connect(todo_, &TodoList::changed, this, &SitePage::refresh);
    fleet_.whenChanged(this, [this] { refresh(); });
    connect(&fleet_, &Fleet::liveChanged, this, &SitePage::refresh);
    connect(&fleet_, &Fleet::workChanged, this, [this] {
        if (fleet_.work().running() == working_->isHidden()) // began, or ended
            refresh();
        else
            showProgress();
    });
    connect(&Theme::get(), &Theme::changed, this, &SitePage::refresh);
    connect(&Theme::get(), &Theme::changed, this, &SitePage::shareHeight);
    const QString last = QSettings().value("adapter").toString();
    if (const int i = range_->findData(last); i >= 0)
        range_->setCurrentIndex(i);
    asking_->setVisible(last.isEmpty() && range_->count() > 1);
    openPanel(todoPanel);
}

SitePage::~SitePage() = default;

void SitePage::showPanel(int panel) {
    byHand_ = true;
    openPanel(panel);
}

void SitePage::shareHeight() {
    const int all = split_->height(), cards = Theme::get().percent() > 130 ? all * 28 / 100 : all * 54 / 100;
    split_->setSizes({cards, all - cards});
}

void SitePage::openPanel(int panel) {
    panels_->setCurrentIndex(panel);
    for (std::size_t i = 0; i < tabs_.size(); ++i)
        tabs_[i]->setChecked(static_cast<int>(i) == panel);
    health_->refresh();
    log_->refresh();
    const auto own = pairing_->chosen();
    device_->show(own.empty() ? "" : own.front(), pairing_->chosenFound());
    differences_->show(meant());
    seal_->show(meant());
    refresh();
}

std::vector<std::string> SitePage::meant() const {
    auto own = pairing_->chosen();
    if (!own.empty())
        return own;
    std::vector<std::string> all;
    for (const auto* m : fleet_.members())
        all.push_back(m->device);
    return all;
}

std::optional<site::Subnet> SitePage::range() const {
    const int i = range_->findText(range_->currentText());
    return site::readSubnet((i >= 0 ? range_->itemData(i).toString() : range_->currentText().trimmed()).toStdString());
}

void SitePage::look() {
    const auto r = range();
    if (!r)
        return session_.report("\"" + range_->currentText() +
                               "\" is no adapter and no range. Choose one, or type a range such as 10.20.4.0/24.");
    QSettings().setValue("adapter", range_->currentData());
    asking_->hide();
    fleet_.look(*r);
}

void SitePage::pairAll() {
    using site::PairBy;
    fleet_.pairAll({PairBy::serial, PairBy::name, PairBy::address, PairBy::model});
}

void SitePage::swapChosen() {
    const auto own = pairing_->chosen();
    if (own.size() != 2)
        return session_.report("Choose the two planned devices to swap: one, then the other with Ctrl.");
    fleet_.swapPairs(own[0], own[1]);
}

void SitePage::unpairChosen() {
    for (const auto& id : pairing_->chosen())
        fleet_.unpair(id);
}

void SitePage::pairByPosition() {
    using site::PairBy;
    fleet_.pairAll({PairBy::serial, PairBy::name, PairBy::address, PairBy::model, PairBy::position});
}

void SitePage::encryptSound() {
    showPanel(sealPanel);
    fleet_.encryptSound(meant(), "");
}

void SitePage::saveImage() {
    const auto own = pairing_->chosen();
    const auto* d = own.size() == 1 ? session_.project().device(own.front()) : nullptr;
    const auto* m = d ? d->spec() : nullptr;
    if (!m || !m->usb)
        return session_.report("Choose a small board among the planned devices first.");
    const auto hex = site::hexImageOf(site::designOf(session_.project(), *d), *m);
    if (!hex)
        return session_.report(hex.error());
    const QString path =
        QFileDialog::getSaveFileName(this, "Save the board's image", q(d->name) + ".hex", "Intel HEX (*.hex)");
    if (path.isEmpty())
        return;
    if (const auto done = project::writeWhole(path.toStdString(), *hex, false); !done)
        return session_.report(done.error());
    session_.report("Saved " + path + ".", false);
}

void SitePage::identifyChosen(bool tone) {
    const auto own = pairing_->chosen();
    const auto* d = own.empty() ? nullptr : session_.project().device(own.front());
    const std::string serial = d ? d->serial : pairing_->chosenFound();
    if (serial.empty())
        return session_.report("Choose a paired or a found device first.");
    fleet_.identify(serial, true, tone ? Fleet::Sign::tone : Fleet::Sign::blink);
    QTimer::singleShot(4000, this, [this, serial] { fleet_.identify(serial, false); });
}

void SitePage::tryNow() {
    fleet_.tryNow(meant());
}
void SitePage::keep() {
    fleet_.keep(meant());
}
void SitePage::takeFromDevice() {
    fleet_.takeFrom(meant());
}
void SitePage::powerCycle() {
    fleet_.powerCycle(meant());
}
void SitePage::setLive(bool on) {
    fleet_.setLive(on);
}

void SitePage::addAllFound() {
    std::vector<std::string> serials;
    for (const auto& f : fleet_.findings())
        if (f.cure == site::SiteFinding::Cure::add)
            serials.push_back(f.serial);
    fleet_.addToPlan(serials, "");
}

void SitePage::goBack() {
    for (const auto& id : meant())
        if (const auto* m = fleet_.member(id); m && m->revisionBefore() > 0)
            fleet_.goBack(id, m->revisionBefore());
}

QString SitePage::stateWord() const {
    int up = 0, all = 0;
    for (const auto* m : fleet_.members()) {
        ++all;
        up += m->link.up();
    }
    if (all == 0 || !fleet_.looked())
        return {};
    if (up == 0)
        return "Connection lost";
    return QString(fleet_.live() ? "Live on %1 of %2" : "On site %1 of %2").arg(up).arg(all);
}

bool SitePage::anyUp() const {
    for (const auto* m : fleet_.members())
        if (m->link.up())
            return true;
    return false;
}

QWidget* SitePage::first() const {
    return asking_->isVisible() ? static_cast<QWidget*>(asking_->findChild<QPushButton*>()) : pairing_;
}

void SitePage::showProgress() {
    const auto& work = fleet_.work();
    working_->setVisible(work.running());
    if (!work.running())
        return;
    progress_->setRange(0, static_cast<int>(work.parts().size()));
    progress_->setValue(work.finished());
    progress_->setFormat(q(work.title()) + ": %v of %m");
}

void SitePage::refresh() {
    const auto chosen = meant();
    if (chosen != shown_) { // devices came or went
        shown_ = chosen;
        differences_->show(chosen);
        seal_->show(chosen);
    }
    const auto now = client::situationOf(fleet_, chosen);
    summary_->setText(
        QString("%1 found \u00b7 %2 planned \u00b7 %3 paired").arg(now.found).arg(now.planned).arg(now.paired));
    applyStyle(summary_, "color: " + tokens().ink2.name());
    applyStyle(question_, "font-weight: bold");

    try_->setEnabled(now.canTry());
    try_->setText(
        now.differ > 0
            ? QString(now.differ == 1 ? "Try it: settle %1 value" : "Try it: settle %1 values").arg(now.differ)
            : QString("Try it"));
    keep_->setEnabled(now.canKeep());
    take_->setEnabled(now.canTake());
    back_->setEnabled(now.canGoBack());
    back_->setText(now.back > 0 && now.devices == 1 ? QString("Go back to %1").arg(now.back) : QString("Go back"));
    cycle_->setEnabled(now.up > 0 && !now.busy);
    live_->setEnabled(now.up > 0 || fleet_.live());
    live_->setText(fleet_.live() ? "Leave live" : "Go live");
    pair_->setEnabled(now.found > 0);
    rest_->setVisible(!now.certain && now.byPosition);
    look_->setText(now.looked ? "Look again" : "Look");
    using Step = client::Situation::Step;
    const auto next = now.next();
    emphasise(look_, next == Step::look && asking_->isHidden()); // the question is to be answered first
    emphasise(pair_, next == Step::pair);
    emphasise(try_, next == Step::tryIt);
    emphasise(keep_, next == Step::keep);

    const int toFix = todo_->toFix();
    if (!byHand_ && panels_->currentIndex() == todoPanel && todo_->count() == 0 && now.differ > 0)
        return openPanel(differencesPanel); // which comes back here
    tabs_[todoPanel]->setText(toFix > 0            ? QString("To do %1").arg(todo_->count())
                              : todo_->count() > 0 ? QString("To note %1").arg(todo_->count())
                                                   : QString("To do"));
    tabs_[differencesPanel]->setText(now.differ > 0 ? QString("Differences %1").arg(now.differ)
                                                    : QString("Differences"));
    QString who =
        chosen.empty() ? QString()
        : pairing_->chosen().empty()
            ? chosen.size() == 1 ? QString("The paired device") : QString("All %1 paired devices").arg(chosen.size())
        : chosen.size() == 1
            ? q(session_.project().device(chosen.front()) ? session_.project().device(chosen.front())->name
                                                          : chosen.front())
            : QString("%1 chosen devices").arg(chosen.size());
    const QString how = q(now.sentence());
    title_->setText((who.isEmpty() ? QString() : "<b>" + who.toHtmlEscaped() + "</b> \u00b7 ") + how);
    applyStyle(title_, "color: " + (now.open > 0 ? tokens().fault : tokens().ink).name());
    showProgress();
    QPalette pal = palette();
    pal.setColor(QPalette::Window, tokens().linen);
    if (auto* lower = findChild<QWidget*>("siteLower"))
        lower->setPalette(pal);
    const QString word = stateWord();
    if (std::exchange(told_, word) != word)
        emit stateChanged();
}

} // namespace loom::app

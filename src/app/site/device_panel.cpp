#include "app/site/device_panel.h"
#include "app/field_form.h"
#include "app/shell/ask.h"
#include "app/shell/flow_layout.h"
#include "app/site/knob_grid.h"
#include "app/text.h"
#include "app/theme/style.h"
#include "rooms/plan_items.h"
#include "site/board_image.h"
#include <QDateTime>
#include <QLabel>
#include <QPushButton>
#include <QRandomGenerator>
#include <QVBoxLayout>
#include <algorithm>

namespace loom::app {

DevicePanel::DevicePanel(Fleet& fleet, QWidget* parent)
    : RowOrStack(940, parent), fleet_(fleet),
      form_(new FieldForm(
          [this] {
              std::vector<project::Field> shown;
              const auto* d = fleet_.session().project().device(device_);
              const auto* m = d ? d->spec() : nullptr;
              if (!m)
                  return shown;
              const auto& specs = project::setUpOf(*m);
              for (auto& f : project::fieldsOf(fleet_.session().project(), {"device:" + device_}))
                  if (!project::isControl(f.id) &&
                      (f.id == "notes" ||
                       std::any_of(specs.begin(), specs.end(), [&](const auto& s) { return s.id == f.id; })))
                      shown.push_back(f);
              return shown;
          },
          [this](const std::string& field, const std::string& value) {
              auto edit = project::setField(fleet_.session().project(), {"device:" + device_}, field, value);
              if (!edit)
                  fleet_.session().report(edit.error());
              return edit && fleet_.session().edit(std::move(*edit));
          })),
      knobs_(new KnobGrid(fleet)),
      revisions_(new SiteTable({"Revision", "When", "Who", ""}, "revisions", "Revisions on the device")),
      title_(new QLabel), says_(new QLabel), identify_(new QPushButton("Let it blink")),
      tone_(new QPushButton("Let it sound")), address_(new QPushButton("Another address\u2026")),
      update_(new QPushButton), rollBack_(new QPushButton), unpair_(new QPushButton("Unpair")),
      add_(new QPushButton("Put it into the plan\u2026")), pair_(new QPushButton("Pair with\u2026")),
      goBack_(new QPushButton("Go back to it")) {
    auto* left = new QVBoxLayout;
    title_->setWordWrap(true);
    says_->setWordWrap(true);
    left->addWidget(title_);
    left->addWidget(says_);
    auto* buttons = new FlowLayout;
    identify_->setObjectName("identify");
    tone_->setObjectName("tone");
    address_->setObjectName("otherAddress");
    update_->setObjectName("update");
    rollBack_->setObjectName("rollBack");
    unpair_->setObjectName("unpair");
    add_->setObjectName("addToPlan");
    pair_->setObjectName("pairWith");
    goBack_->setObjectName("goBackTo");
    identify_->setCheckable(true);
    tone_->setCheckable(true);
    for (auto* b : {identify_, tone_, pair_, add_, address_, update_, rollBack_, unpair_})
        buttons->addWidget(b);
    left->addLayout(buttons);
    left->addStretch(1);
    add(left, 2);
    auto* middle = new QVBoxLayout;
    middle->addWidget(form_, 1);
    middle->addWidget(knobs_);
    add(middle, 3);
    auto* right = new QVBoxLayout;
    right->addWidget(revisions_, 1);
    right->addWidget(goBack_, 0, Qt::AlignLeft);
    add(right, 3);
    revisions_->setSelectionMode(QAbstractItemView::SingleSelection);
    form_->setNone("It is not in the plan yet.");
    connect(identify_, &QPushButton::toggled, this, [this](bool on) {
        identify_->setText(on ? "Stop blinking" : "Let it blink");
        if (on)
            tone_->setChecked(false);
        fleet_.identify(serial_, on);
    });
    connect(tone_, &QPushButton::toggled, this, [this](bool on) {
        tone_->setText(on ? "Stop the tone" : "Let it sound");
        if (on)
            identify_->setChecked(false);
        fleet_.identify(serial_, on, Fleet::Sign::tone);
    });
    connect(address_, &QPushButton::clicked, this, &DevicePanel::otherAddress);
    connect(update_, &QPushButton::clicked, this, [this] { fleet_.update(device_, false); });
    connect(rollBack_, &QPushButton::clicked, this, [this] { fleet_.update(device_, true); });
    connect(unpair_, &QPushButton::clicked, this, [this] { fleet_.unpair(device_); });
    connect(add_, &QPushButton::clicked, this, &DevicePanel::addToPlan);
    connect(pair_, &QPushButton::clicked, this, &DevicePanel::pairWith);
    connect(goBack_, &QPushButton::clicked, this, [this] {
        if (const int row = revisions_->currentRow(); row >= 0)
            fleet_.goBack(device_, revisions_->text(row, 0).toInt());
    });
    connect(revisions_->selectionModel(), &QItemSelectionModel::selectionChanged, this,
            [this] { goBack_->setEnabled(revisions_->currentRow() >= 0); });
    fleet.whenChanged(this, [this] { refresh(); });
    connect(&Theme::get(), &Theme::changed, this, [this] { refresh(); });
}

void DevicePanel::show(const std::string& device, const std::string& serial) {
    if (identify_->isChecked())
        identify_->setChecked(false);
    if (tone_->isChecked())
        tone_->setChecked(false);
    device_ = device;
    serial_ = serial;
    if (const auto* d = fleet_.session().project().device(device); d && serial.empty())
        serial_ = d->serial;
    refresh();
}

void DevicePanel::refresh() {
    if (!isVisible())
        return;
    const auto* d = fleet_.session().project().device(device_);
    const auto* m = fleet_.member(device_);
    if (d && !d->serial.empty())
        serial_ = d->serial;
    const auto it = fleet_.discovery().found().find(serial_);
    const bool found = it != fleet_.discovery().found().end();
    applyStyle(title_, "font-weight: bold");
    title_->setText(!d && !found ? QString("Choose a device above.")
                    : d          ? q(d->name) + (serial_.empty() ? QString() : " \u00b7 " + q(serial_))
                                 : q(it->second.modelName + " \u00b7 " + serial_));
    const auto* model = d ? d->spec() : found ? it->second.spec() : nullptr;
    const bool onUsb = model && model->usb;
    QStringList says;
    if (d && d->serial.empty())
        says << "It is planned, and not paired with a device on site yet.";
    if (found)
        says << q((onUsb ? "It answers on USB" : "It answers at " + it->second.address) + ", firmware " +
                  it->second.firmware + ".");
    else if (!serial_.empty())
        says << "It does not answer.";
    if (const auto key = site::printOf(d && !d->known.identity.empty() ? d->known.identity
                                       : found                         ? it->second.identity
                                                                       : "");
        !key.empty())
        says << q("Its key is " + key + ": compare it with its label.");
    if (m && m->locked)
        says << "It is sealed: give the password under Seal.";
    if (onUsb && d && d->program)
        says << QString("Its design takes %1 of the %2 bytes of its store.")
                    .arg(site::imageOf(site::designOf(fleet_.session().project(), *d)).size())
                    .arg(model->storeBytes);
    says_->setText(says.join(' '));
    const bool up = m && m->link.up() && !m->locked;
    identify_->setVisible(found);
    tone_->setVisible(found && m && m->config && m->config->program);
    address_->setVisible(found && !(model && model->usb));
    unpair_->setVisible(d && !d->serial.empty());
    add_->setVisible(found && !d);
    pair_->setVisible((d && d->serial.empty()) || (found && !d));
    update_->setVisible(up && model && site::older(m->vitals.firmware, model->firmware));
    update_->setText(model ? q("Bring firmware to " + model->firmware) : QString());
    rollBack_->setVisible(up && !m->vitals.firmwareBefore.empty());
    rollBack_->setText(m ? q("Firmware back to " + m->vitals.firmwareBefore) : QString());
    form_->refresh();
    form_->setMinimumHeight(stacked() ? Theme::get().ipx(120) : 0);
    revisions_->setMinimumHeight(stacked() ? Theme::get().ipx(110) : 0);
    knobs_->show(device_);
    revisions_->dress({70, 130, 0, 60});
    const auto list = m ? m->revisions : std::vector<site::RevisionInfo>();
    revisions_->fill(static_cast<int>(list.size()), [list](int row, int column) { // the newest first
        const auto& r = list[list.size() - 1 - static_cast<std::size_t>(row)];
        switch (column) {
        case 0:
            return SiteCell{QString::number(r.revision), {}, true};
        case 1:
            return SiteCell{QDateTime::fromString(q(r.time), Qt::ISODate).toLocalTime().toString("d MMM yyyy HH:mm")};
        case 2:
            return SiteCell{q(r.author)};
        default:
            return SiteCell{r.kept ? "kept" : ""};
        }
    });
    goBack_->setVisible(revisions_->rowCount() > 0);
    goBack_->setEnabled(up && revisions_->currentRow() >= 0);
}

void DevicePanel::otherAddress() {
    const auto it = fleet_.discovery().found().find(serial_);
    if (it == fleet_.discovery().found().end())
        return;
    const auto free = fleet_.discovery().range() ? site::proposeAddress(fleet_.session().project(), fleet_.found(),
                                                                        it->second, *fleet_.discovery().range())
                                                 : std::string();
    const auto some = fleet_.discovery().range()
                          ? site::randomAddress(fleet_.session().project(), fleet_.found(), it->second,
                                                *fleet_.discovery().range(), QRandomGenerator::global()->generate())
                          : std::string();
    QStringList offers;
    for (const auto& a : {free, some}) // the next of the plan's, any free one; or what is typed
        if (!a.empty() && !offers.contains(q(a)))
            offers << q(a);
    const QString says = q("For " + serial_ + ": the next of the plan, one at random, or what you type");
    if (const auto text = askOne(this, "Another address", {says, offers.value(0), offers}))
        fleet_.readdress(serial_, text->toStdString());
}

void DevicePanel::addToPlan() {
    QStringList names{"Equipment rack, or no room"};
    std::vector<std::string> ids{""};
    for (const auto& b : fleet_.session().project().buildings)
        for (const auto& r : b.rooms) {
            names << q(r.name);
            ids.push_back(r.id);
        }
    if (const auto room = askOne(this, "Put it into the plan", {"It stands in", names.front(), names, false}))
        fleet_.addToPlan({serial_}, ids[static_cast<std::size_t>(std::max(qsizetype(0), names.indexOf(*room)))]);
}

void DevicePanel::pairWith() {
    QStringList names;
    std::vector<std::pair<std::string, std::string>> pairs;
    const auto* d = fleet_.session().project().device(device_);
    if (d) {
        for (const auto& f : fleet_.found())
            if (f.model == d->model &&
                std::none_of(fleet_.session().project().devices.begin(), fleet_.session().project().devices.end(),
                             [&](const auto& o) { return o.serial == f.serial; })) {
                names << q(f.modelName + " " + f.serial + " at " + f.address);
                pairs.push_back({device_, f.serial});
            }
    } else if (const auto it = fleet_.discovery().found().find(serial_); it != fleet_.discovery().found().end()) {
        for (const auto& o : fleet_.session().project().devices)
            if (o.model == it->second.model) {
                names << q(o.name + (o.serial.empty() ? "" : ", in place of " + o.serial));
                pairs.push_back({o.id, serial_});
            }
    }
    if (names.isEmpty())
        return fleet_.session().report("There is no other device of its model to pair it with.");
    const auto name = askOne(this, "Pair", {"Pair it with", names.front(), names, false});
    if (const auto i = name ? names.indexOf(*name) : -1; i >= 0)
        fleet_.pair(pairs[static_cast<std::size_t>(i)].first, pairs[static_cast<std::size_t>(i)].second);
}

} // namespace loom::app

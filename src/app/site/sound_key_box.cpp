#include "app/site/sound_key_box.h"
#include "app/shell/flow_layout.h"
#include "app/text.h"
#include "app/theme/style.h"
#include "app/theme/theme.h"
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

namespace loom::app {

using How = site::SoundLink::How;

SoundKeyBox::SoundKeyBox(Fleet& fleet, QWidget* parent)
    : QWidget(parent), fleet_(fleet), title_(new QLabel), says_(new QLabel), phrase_(new QLineEdit),
      encrypt_(new QPushButton), open_(new QPushButton("Open the sound")),
      links_(new SiteTable({"Sound from", "To", "On the way"}, "soundLinks", "Ways of sound between devices")) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    title_->setWordWrap(true);
    says_->setWordWrap(true);
    box->addWidget(title_);
    phrase_->setObjectName("phrase");
    encrypt_->setObjectName("encryptSound");
    open_->setObjectName("openSound");
    phrase_->setPlaceholderText("A phrase; empty: a key is made");
    phrase_->setAccessibleName("Phrase that the key of the sound is made from");
    phrase_->setToolTip("The same phrase gives the same key, also for a device that comes later");
    phrase_->setEchoMode(QLineEdit::Password);
    phrase_->setMaxLength(static_cast<int>(site::mostPassword));
    phrase_->setMinimumWidth(220);
    auto* row = new FlowLayout;
    for (auto* w : {static_cast<QWidget*>(phrase_), static_cast<QWidget*>(encrypt_), static_cast<QWidget*>(open_)})
        row->addWidget(w);
    box->addLayout(row);
    box->addWidget(says_);
    links_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Ignored); // as much as there is, and scrolls itself
    links_->setMinimumHeight(Theme::get().ipx(84));
    box->addWidget(links_, 1);
    const auto give = [this] {
        fleet_.encryptSound(devices_, phrase_->text().toStdString());
        phrase_->clear();
    };
    connect(encrypt_, &QPushButton::clicked, this, give);
    connect(phrase_, &QLineEdit::returnPressed, this, [this, give] {
        if (encrypt_->isEnabled())
            give();
    });
    connect(open_, &QPushButton::clicked, this, [this] { fleet_.openSound(devices_); });
    fleet.whenChanged(this, [this] { refresh(); });
    connect(&fleet, &Fleet::workChanged, this, &SoundKeyBox::refresh);
    connect(&Theme::get(), &Theme::changed, this, &SoundKeyBox::refresh);
}

void SoundKeyBox::show(const std::vector<std::string>& devices) {
    devices_ = devices;
    refresh();
}

void SoundKeyBox::refresh() {
    if (!isVisible())
        return;
    const auto& project = fleet_.session().project();
    const auto links = fleet_.soundLinks();
    const auto count = [&](How how) {
        return std::count_if(links.begin(), links.end(), [&](const auto& l) { return l.how == how; });
    };
    const auto network = static_cast<std::ptrdiff_t>(links.size()) - count(How::cable);
    title_->setText(network == 0 ? QString("No sound goes from device to device over the network in this project.")
                                 : QString("%1 of %2 ways of sound over the network are encrypted.")
                                       .arg(count(How::encrypted))
                                       .arg(network));
    applyStyle(title_, "font-weight: bold");
    const auto silent = site::withoutSound(project);
    bool ready = false, keyed = false;
    for (const auto& id : devices_)
        if (const auto* m = fleet_.member(id); m && std::find(silent.begin(), silent.end(), id) == silent.end()) {
            ready = ready || (m->link.up() && m->sealed && !m->locked);
            keyed = keyed || !m->audioKey.empty();
        }
    const bool busy = fleet_.work().running();
    encrypt_->setText(keyed ? "Give a new key" : "Encrypt the sound");
    encrypt_->setEnabled(ready && !busy && network > 0);
    open_->setEnabled(ready && keyed && !busy);
    QStringList says;
    const auto& doing = fleet_.work().title();
    if (doing == "Encrypt the sound" || doing == "Open the sound")
        for (const auto& p : fleet_.work().parts())
            says << q(p.name + ": " + client::inWords(p));
    QStringList none;
    for (const auto& id : silent)
        if (const auto* d = project.device(id))
            none << q(d->name);
    QString about = says.join("   \u00b7   ");
    if (about.isEmpty() && !ready && network > 0)
        about = "Seal the devices with the room's password first; then their sound can have a key.";
    if (about.isEmpty() && !none.isEmpty())
        about = "Carry no sound: " + none.mid(0, 6).join(", ") +
                (none.size() > 6 ? QString(" and %1 more.").arg(none.size() - 6) : QString("."));
    says_->setText(about);
    applyStyle(says_, "color: " + tokens().ink2.name());
    links_->dress({190, 170, 0});
    links_->fill(static_cast<int>(links.size()), [this, links](int row, int column) {
        const auto& l = links[static_cast<std::size_t>(row)];
        if (column == 2)
            return SiteCell{q(site::wordOf(l.how)), l.how == How::broken      ? tokens().fault
                                                    : l.how == How::encrypted ? tokens().ink
                                                                              : tokens().ink2};
        const auto& end = column == 0 ? l.lead.from : l.lead.to;
        const auto* d = fleet_.session().project().device(end.device);
        return SiteCell{(d ? q(d->name) : q(end.device)) + ", " + q(end.port)};
    });
}

} // namespace loom::app

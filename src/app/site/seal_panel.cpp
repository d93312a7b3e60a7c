#include "app/site/seal_panel.h"
#include "app/shell/flow_layout.h"
#include "app/site/sound_key_box.h"
#include "app/text.h"
#include "app/theme/style.h"
#include "app/theme/theme.h"
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

namespace loom::app {

SealPanel::SealPanel(Fleet& fleet, QWidget* parent)
    : RowOrStack(900, parent), fleet_(fleet), title_(new QLabel), about_(new QLabel), says_(new QLabel),
      password_(new QLineEdit), again_(new QLineEdit), sound_(new SoundKeyBox(fleet)), seal_(new QPushButton("Seal")),
      unlock_(new QPushButton("Open for this computer")), unseal_(new QPushButton("Take the seal off")) {
    auto* box = new QVBoxLayout;
    title_->setWordWrap(true);
    box->addWidget(title_);
    auto* row = new FlowLayout;
    const std::pair<QLineEdit*, const char*> fields[] = {{password_, "Password"}, {again_, "Password again, to seal"}};
    for (const auto& [edit, text] : fields) {
        edit->setEchoMode(QLineEdit::Password);
        edit->setPlaceholderText(text);
        edit->setAccessibleName(text);
        edit->setMaxLength(static_cast<int>(site::mostPassword));
        edit->setMinimumWidth(220);
        row->addWidget(edit);
        connect(edit, &QLineEdit::textChanged, this, &SealPanel::refresh);
    }
    password_->setObjectName("password");
    again_->setObjectName("passwordAgain");
    seal_->setObjectName("seal");
    unlock_->setObjectName("unlock");
    unseal_->setObjectName("unseal");
    for (auto* b : {seal_, unlock_, unseal_})
        row->addWidget(b);
    box->addLayout(row);
    says_->setWordWrap(true);
    box->addWidget(says_);
    about_->setWordWrap(true);
    about_->setText("A sealed device tells its name, model and address, and nothing else without the password. The "
                    "password is never sent and never in the project: this computer and the device prove to each other "
                    "that they know it.\nIf it is lost, nobody can read it out: hold the device's reset button until "
                    "its lamp goes out. It then gets everything again from the project. Have the project at hand "
                    "before you seal.");
    box->addWidget(about_);
    box->addStretch(1);
    add(box, 1);
    auto* beside = new QVBoxLayout;
    beside->addWidget(sound_);
    add(beside, 1);
    const auto done = [this] {
        password_->clear();
        again_->clear();
    };
    connect(seal_, &QPushButton::clicked, this, [this, done] {
        fleet_.seal(devices_, password_->text().toStdString());
        done();
    });
    const auto unlock = [this, done] {
        fleet_.unlock(password_->text().toStdString());
        done();
    };
    connect(unlock_, &QPushButton::clicked, this, unlock);
    connect(password_, &QLineEdit::returnPressed, this, [this, unlock] {
        if (unlock_->isEnabled())
            unlock();
    });
    connect(unseal_, &QPushButton::clicked, this, [this, done] {
        fleet_.unseal(devices_, password_->text().toStdString());
        done();
    });
    fleet.whenChanged(this, [this] { refresh(); });
    connect(&fleet, &Fleet::workChanged, this, &SealPanel::refresh);
    connect(&Theme::get(), &Theme::changed, this, &SealPanel::refresh);
}

void SealPanel::show(const std::vector<std::string>& devices) {
    devices_ = devices;
    sound_->show(devices);
    refresh();
}

void SealPanel::refresh() {
    int sealed = 0, locked = 0, there = 0;
    for (const auto& id : devices_)
        if (const auto* m = fleet_.member(id)) {
            ++there;
            sealed += m->sealed;
            locked += m->locked;
        }
    title_->setText(there == 0
                        ? QString("No paired device is chosen.")
                        : QString("%1 of %2 chosen devices are sealed; %3 wait for the password on this computer.")
                              .arg(sealed)
                              .arg(there)
                              .arg(locked));
    applyStyle(title_, "font-weight: bold");
    applyStyle(about_, "color: " + tokens().ink2.name());
    const auto word = password_->text();
    const bool whole = word.toUtf8().size() >= static_cast<qsizetype>(site::leastPassword);
    const bool busy = fleet_.work().running();
    seal_->setEnabled(whole && word == again_->text() && there > locked && !busy);
    unlock_->setEnabled(!word.isEmpty() && locked > 0);
    unseal_->setEnabled(!word.isEmpty() && sealed > 0 && !busy);
    QString says;
    if (fleet_.work().title() == "Seal")
        for (const auto& p : fleet_.work().parts())
            says += (says.isEmpty() ? "" : "   \u00b7   ") + q(p.name + ": " + client::inWords(p));
    if (!word.isEmpty() && !whole)
        says = "A password has at least 8 letters; a few words are good.";
    else if (!again_->text().isEmpty() && word != again_->text())
        says = "The two are not the same yet.";
    says_->setText(says);
    says_->setVisible(!says.isEmpty());
}

} // namespace loom::app

#include "app/deck/block_picture.h"
#include "app/theme/theme.h"

namespace loom::app {

BlockPicture::BlockPicture(Session& session, const QString& block, const QString& what, const QString& says,
                           QSize least)
    : session_(session), block_(block) {
    setObjectName(what + "." + block);
    setAccessibleName(says);
    setMinimumSize(Theme::get().ipx(least.width()), Theme::get().ipx(least.height()));
}

const engine::Block* BlockPicture::block() const {
    return session_.program() ? session_.program()->find(block_.toStdString()) : nullptr;
}

} // namespace loom::app

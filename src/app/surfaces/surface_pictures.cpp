#include "app/surfaces/surface_pictures.h"
#include "app/text.h"
#include "disk/safe_file.h"
#include "surface/pack.h"
#include "surface/picture_size.h"
#include <QBuffer>
#include <QCoreApplication>
#include <QFileInfo>
#include <QImageReader>
#include <QMimeData>
#include <QPainter>
#include <QSvgRenderer>
#include <QThreadPool>
#include <QUrl>
#include <list>

namespace loom::app {

using namespace project;

namespace {

constexpr qsizetype mostKeptBytes = 512 << 20; // decoded, of all that is shown

struct Kept {
    Asset bytes; // holds what the key points to
    QSize box;
    QImage image;
    bool asked = false; // it is being decoded
};
std::list<Kept>& kept() {
    static std::list<Kept> all;
    return all;
}

// One after another: what is shown longest comes first, and the window keeps a processor.
QThreadPool& decoders() {
    struct Pool : QThreadPool {
        Pool() { setMaxThreadCount(1); }
        ~Pool() override { waitForDone(); }
    };
    static PictureNews& first = PictureNews::get(); // outlives it
    (void)first;
    static Pool pool;
    return pool;
}

QImage decode(const std::vector<char>& bytes, const QSize& box) {
    if (errorInPicture(bytes))
        return {};
    const auto size = pictureSize(bytes);
    const QSize own(size->width, size->height);
    const QByteArray data = QByteArray::fromRawData(bytes.data(), static_cast<qsizetype>(bytes.size()));
    if (size->kind == PictureSize::Kind::svg) {
        QSvgRenderer svg(data);
        if (!svg.isValid())
            return {};
        QImage image(own.scaled(box, Qt::KeepAspectRatio).expandedTo({1, 1}), QImage::Format_ARGB32_Premultiplied);
        image.fill(Qt::transparent);
        QPainter p(&image);
        svg.render(&p);
        return image;
    }
    QBuffer buffer;
    buffer.setData(data);
    QImageReader reader(&buffer);
    reader.setAutoTransform(true);
    const auto image = reader.read();
    return image.isNull() ? image
                          : image.scaled(image.size().scaled(box, Qt::KeepAspectRatio).expandedTo({1, 1}),
                                         Qt::IgnoreAspectRatio, Qt::SmoothTransformation);
}

} // namespace

PictureNews& PictureNews::get() {
    static PictureNews news;
    return news;
}

QImage pictureAt(const Project& p, const std::string& name, const QSize& box) {
    const auto it = p.assets.find(name);
    if (it == p.assets.end() || box.isEmpty() || box.width() > 16384 || box.height() > 16384)
        return {};
    auto& all = kept();
    QImage meanwhile; // the same in another size
    for (auto k = all.begin(); k != all.end(); ++k) {
        if (k->bytes.data() != it->second.data())
            continue;
        if (k->box == box && !k->asked) {
            all.splice(all.begin(), all, k);
            return k->image;
        }
        if (k->box == box)
            return meanwhile.isNull() ? k->image : meanwhile;
        if (meanwhile.isNull())
            meanwhile = k->image;
    }
    all.push_front({it->second, box, meanwhile, true});
    qsizetype bytes = 0; // those that were shown longest ago go
    for (auto k = all.begin(); k != all.end();) {
        bytes += k->asked ? 4 * qsizetype(k->box.width()) * k->box.height() : k->image.sizeInBytes();
        k = bytes > mostKeptBytes && k != all.begin() ? all.erase(k) : std::next(k);
    }
    decoders().start([bytes = it->second, box] {
        auto image = decode(bytes, box);
        QMetaObject::invokeMethod(&PictureNews::get(), [bytes, box, image] {
            for (auto& k : kept())
                if (k.bytes.data() == bytes.data() && k.box == box)
                    k.image = image, k.asked = false;
            emit PictureNews::get().came();
        });
    });
    return meanwhile;
}

void settlePictures() {
    decoders().waitForDone();
    QCoreApplication::sendPostedEvents(&PictureNews::get());
}

void takePictures(SurfacesState& state, const QMimeData& from, const QPointF& at, const std::string& on) {
    struct One {
        std::string name;
        std::vector<char> bytes;
    };
    std::vector<One> all;
    for (const auto& url : from.urls()) {
        const auto path = url.toLocalFile();
        const auto bytes = readBytes(path.toStdString(), largestPicture);
        if (!bytes) {
            state.session().report(bytes.error());
            continue;
        }
        all.push_back({QFileInfo(path).fileName().toStdString(), *bytes});
    }
    if (all.empty() && from.hasImage()) {
        QByteArray png;
        QBuffer buffer(&png);
        buffer.open(QIODevice::WriteOnly);
        qvariant_cast<QImage>(from.imageData()).save(&buffer, "PNG");
        all.push_back({"picture.png", {png.begin(), png.end()}});
    }
    const auto* c = state.page() ? state.page()->control(on) : nullptr;
    const auto* kind = c ? findControlKind(c->kind) : nullptr;
    const bool onto = kind && (kind->id == "picture" || kind->touch == Touch::press || kind->touch == Touch::toggle ||
                               kind->touch == Touch::hold);
    bool first = true;
    for (auto& one : all) {
        if (std::exchange(first, false) && onto)
            state.edit(setPicture(state.project(), state.place(), {on}, "always", one.name, std::move(one.bytes)));
        else
            state.edit(addPicture(state.project(), state.place(), one.name, std::move(one.bytes), at.x(), at.y()));
    }
}

PictureScaler::PictureScaler(SurfacesState& state)
    : state_(state), worker_([this](std::vector<Scaled> all) {
          std::vector<Edit> edits;
          for (auto& one : all)
              if (showsStill(one.control, one.name))
                  if (const auto edit =
                          setPicture(state_.project(), place_, {one.control}, one.what, one.name, std::move(one.bytes)))
                      edits.push_back(*edit);
          if (edits.empty())
              return state_.session().report("The pictures could not be made smaller.");
          if (state_.edit(together(std::move(edits), "Scale pictures to what is shown")))
              state_.session().report("Scaled to what is shown.", false);
      }) {}

// Whether nobody has given it another meanwhile.
bool PictureScaler::showsStill(const std::string& control, const std::string& name) const {
    const auto* s = state_.project().surface(place_.surface);
    const auto* page = s ? s->page(place_.page) : nullptr;
    const auto* c = page ? page->control(control) : nullptr;
    const auto names = c ? picturesOf(*c) : std::vector<std::string>{};
    return std::find(names.begin(), names.end(), name) != names.end();
}

void PictureScaler::scale() {
    struct Job {
        std::string control, what, name;
        Asset bytes;
        QSize box;
        bool png;
    };
    std::vector<Job> jobs;
    for (const auto& id : state_.chosen()) {
        const auto* c = state_.page()->control(id);
        if (!c)
            continue;
        for (const auto& [what, name] : {std::pair("always", c->pictures.always),
                                         {"off", c->pictures.off},
                                         {"on", c->pictures.on},
                                         {"mixed", c->pictures.mixed},
                                         {"unknown", c->pictures.unknown},
                                         {"held", c->pictures.held}}) {
            const auto it = state_.project().assets.find(name);
            const auto size =
                it == state_.project().assets.end() ? Result<PictureSize>(Error{}) : pictureSize(it->second);
            const QSize box(static_cast<int>(std::ceil(c->width)), static_cast<int>(std::ceil(c->height)));
            if (size && size->kind != PictureSize::Kind::svg &&
                (size->width > box.width() || size->height > box.height()))
                jobs.push_back({id, what, name, it->second, box, size->kind == PictureSize::Kind::png});
        }
    }
    if (jobs.empty())
        return state_.session().report("They are no larger than what is shown.", false);
    place_ = state_.place();
    state_.session().report("Scaling pictures \u2026", false);
    worker_.start([jobs = std::move(jobs)](std::stop_token stop) {
        std::vector<Scaled> all;
        for (const auto& job : jobs) {
            if (stop.stop_requested())
                break;
            const auto image = decode(job.bytes, job.box);
            QByteArray out;
            QBuffer buffer(&out);
            buffer.open(QIODevice::WriteOnly);
            if (!image.isNull() && image.save(&buffer, job.png ? "PNG" : "JPEG", 90))
                all.push_back({job.control, job.what, job.name, {out.begin(), out.end()}});
        }
        return all;
    });
}

} // namespace loom::app

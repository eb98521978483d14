#include "dialogs/form.h"

namespace nuvat {

Frame makeFrame(QDialog& dialog, const char* name, const QString& title, const QString& accept) {
    dialog.setObjectName(QString::fromLatin1(name));
    dialog.setWindowTitle(title);
    Frame out;
    out.body = new QVBoxLayout(&dialog);
    out.body->setContentsMargins(20, 18, 20, 16);
    out.body->setSpacing(10);
    out.buttons = new QHBoxLayout;
    out.buttons->addStretch();
    auto* cancel = makeButton(QObject::tr("Cancel"), "normal", QStringLiteral("dialogCancel"), &dialog);
    out.accept = makeButton(accept, "primary", QStringLiteral("dialogAccept"), &dialog);
    out.accept->setDefault(true);
    out.buttons->addWidget(cancel);
    out.buttons->addWidget(out.accept);
    QObject::connect(cancel, &QPushButton::clicked, &dialog, &QDialog::reject);
    return out;
}

} // namespace nuvat

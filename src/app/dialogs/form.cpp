#include "dialogs/form.h"

#include "theme/style.h"

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
    out.wrong = makeLabel({}, "small", &dialog);
    out.wrong->setObjectName(QStringLiteral("dialogWrong"));
    out.wrong->setWordWrap(true);
    out.wrong->setMinimumHeight(34);
    out.wrong->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    out.wrong->setStyleSheet(QStringLiteral("color: %1;").arg(theme().brick.name()));
    QObject::connect(cancel, &QPushButton::clicked, &dialog, &QDialog::reject);
    return out;
}

} // namespace nuvat

#include "window/guarded_application.hpp"

#include <QStandardPaths>
#include <gtest/gtest.h>

int main(int argc, char **argv) {
    testing::InitGoogleTest(&argc, argv);
    heron::app::GuardedApplication application(argc, argv);
    QApplication::setApplicationName(QStringLiteral("young-heron-test"));
    QApplication::setOrganizationName(QStringLiteral("young-heron-test"));
    return RUN_ALL_TESTS();
}

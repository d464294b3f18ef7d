// Qt's headers for speech name its declarative language, whose development files are thirty packages that
// nothing here uses. The macros say nothing to a program without that language; here they say nothing at all.
#pragma once

#define QML_ELEMENT
#define QML_NAMED_ELEMENT(name)
#define QML_VALUE_TYPE(name)
#define QML_UNCREATABLE(reason)

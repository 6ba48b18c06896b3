// Packages by a system of the test's own: status, file lists, contents lists.
#include "locate/packages.h"

#include "describe/readers.h"
#include "locate/mentions.h"
#include "support.h"

namespace coctilis::test {
namespace {

class PackageLists : public ::testing::Test {
 protected:
  PackageLists() {
    place.write("var/lib/dpkg/status",
                "Package: libglaze2\nStatus: install ok installed\nArchitecture: amd64\nVersion: 1:2.4.1+dfsg-3+b1\n\n"
                "Package: old-kiln\nStatus: deinstall ok config-files\nArchitecture: amd64\nVersion: 1\n\n"
                "Package: libarm-dev\nStatus: install ok installed\nArchitecture: arm64\nVersion: 3-1\n");
    place.write("var/lib/dpkg/info/libglaze2:amd64.list", "/.\n/usr/lib/libglaze.so.2\n");
    place.write("var/lib/apt/lists/a_main_binary-amd64_Packages", "Package: libclay-dev\n\nPackage: libslip-dev\n");
    place.write("var/lib/apt/lists/a_main_Contents-amd64",
                "usr/include/clay/body.h                 libdevel/libclay-dev\n"
                "usr/include/more/clay/body.h            libdevel/libmore-dev\n"
                "usr/lib/x86_64-linux-gnu/libclay.so     libdevel/libclay-dev\n"
                "usr/lib/x86_64-linux-gnu/libclay.so.1   libs/libclay1\n"
                "usr/bin/kiln fire                       utils/kilnfire,utils/kilnfire-extra\n"
                "usr/bin/glazer                          utils/glazer\n");
    place.write("var/lib/apt/lists/a_main_Contents-arm64", "usr/bin/glazer utils/wrong\n");
  }
  model::Finding missing(model::RequirementKind kind, const std::string& name) const {
    model::Finding out;
    out.requirement = {kind, name, {}, true, "test", {}, {}};
    return out;
  }
  TreeFolder place;
  model::Toolchain chain = [] {
    model::Toolchain out;
    out.machine = "x86_64-linux-gnu";
    return out;
  }();
};

TEST_F(PackageLists, WhatIsInstalled) {
  locate::Packages packages(place.path());
  EXPECT_TRUE(packages.installed("libglaze2"));
  EXPECT_TRUE(packages.installed("libglaze2:amd64"));
  EXPECT_FALSE(packages.installed("libglaze2:arm64"));
  EXPECT_TRUE(packages.installed("libarm-dev:arm64"));
  EXPECT_FALSE(packages.installed("old-kiln"));
  EXPECT_EQ(packages.version("libglaze2"), "2.4.1");
  EXPECT_TRUE(packages.available("libclay-dev"));
  EXPECT_TRUE(packages.available("libclay-dev:arm64"));
  EXPECT_FALSE(packages.available("libglaze2"));
  EXPECT_EQ(packages.owner("/usr/lib/libglaze.so.2"), "libglaze2:amd64");
  EXPECT_EQ(packages.owner("/lib/libglaze.so.2"), "libglaze2:amd64");
  EXPECT_EQ(packages.owner("/usr/lib/libnone.so"), "");
}

TEST_F(PackageLists, FilesLeadToPackages) {
  locate::Packages packages(place.path());
  const auto found =
      packages.with_files({{"/include/clay/body.h"}, {"/libclay.so"}, {"/usr/bin/glazer"}, {"/none"}}, "amd64");
  EXPECT_EQ(found, (std::vector<std::string>{"libclay-dev", "libclay-dev", "glazer", ""}));
}

TEST_F(PackageLists, MissingThingsAreNamedWithTheirPackages) {
  locate::Packages packages(place.path());
  std::vector<model::Finding> all = {
      missing(model::RequirementKind::header, "clay/body.h"), missing(model::RequirementKind::library, "clay"),
      missing(model::RequirementKind::program, "glazer"), missing(model::RequirementKind::library, "slip"),
      missing(model::RequirementKind::library, "unheard-of")};
  locate::name_packages(all, chain, packages);
  EXPECT_EQ(all[0].package, "libclay-dev");
  EXPECT_EQ(all[1].package, "libclay-dev");
  EXPECT_EQ(all[2].package, "glazer");
  EXPECT_EQ(all[3].package, "libslip-dev");  // by the custom of naming
  EXPECT_EQ(all[4].package, "");
  EXPECT_EQ(locate::install_command(all),
            (std::vector<std::string>{"apt-get", "install", "libclay-dev", "glazer", "libslip-dev"}));
}

TEST_F(PackageLists, LibrariesForAnotherMachineAreNamedWithIt) {
  locate::Packages packages(place.path());
  chain.machine = "aarch64-linux-gnu";
  chain.foreign = true;
  std::vector<model::Finding> all = {missing(model::RequirementKind::library, "slip"),
                                     missing(model::RequirementKind::program, "make-nothing")};
  locate::name_packages(all, chain, packages);
  EXPECT_EQ(all[0].package, "libslip-dev:arm64");
}

TEST_F(PackageLists, WhatIsInstalledAndNotFoundIsDamaged) {
  place.write("var/lib/dpkg/status",
              "Package: libclay-dev\nStatus: install ok installed\nArchitecture: amd64\nVersion: 1\n\n");
  locate::Packages packages(place.path());
  std::vector<model::Finding> all = {missing(model::RequirementKind::header, "clay/body.h")};
  locate::name_packages(all, chain, packages);
  EXPECT_EQ(all[0].package, "");
  EXPECT_NE(all[0].reason.find("libclay-dev is installed, but"), std::string::npos);
  EXPECT_TRUE(locate::install_command(all).empty());
}

TEST_F(PackageLists, OnlyWhatHelpsIsAdvised) {
  place.write("var/lib/dpkg/status",
              *files::read(place.path("var/lib/dpkg/status")) +
                  "\nPackage: dpkg\nStatus: install ok installed\nArchitecture: amd64\nVersion: 1\n");
  place.write("var/lib/apt/lists/a_main_binary-amd64_Packages",
              "Package: libclay-dev\nVersion: 1:2.4-3\n\nPackage: g++-mips-linux-gnu\nVersion: 4:12.2\n");
  locate::Packages packages(place.path());
  EXPECT_EQ(locate::advice_for("libclay-dev", packages).command, "apt-get install libclay-dev");
  EXPECT_EQ(locate::advice_for("libclay-dev", packages, ">= 2.1").command, "apt-get install libclay-dev");
  const auto has = [](const std::string& text, const char* part) { return text.find(part) != std::string::npos; };
  const auto why_not = [&](const std::string& package, const char* constraint = "") {
    const auto advice = locate::advice_for(package, packages, constraint);
    EXPECT_EQ(advice.command, "");
    return advice.reason;
  };
  EXPECT_TRUE(has(why_not("libclay-dev", ">= 3"), "has version 2.4, required is >= 3"));
  EXPECT_TRUE(has(why_not("g++-zork"), "none can be installed from the package lists"));
  EXPECT_TRUE(has(why_not("libglaze2"), "is installed, but"));
  EXPECT_TRUE(has(why_not("libclay-dev:armhf"), "dpkg --add-architecture armhf"));
  place.write("var/lib/dpkg/arch", "amd64\narmhf\n");
  locate::Packages again(place.path());
  EXPECT_EQ(locate::advice_for("libclay-dev:armhf", again).command, "apt-get install libclay-dev:armhf");
  // Where there are no lists nobody knows better.
  TreeFolder bare;
  locate::Packages nothing(bare.path());
  EXPECT_EQ(locate::advice_for("libslip-dev", nothing).command, "apt-get install libslip-dev");
}

TEST(Architectures, OfTriplets) {
  EXPECT_EQ(locate::debian_architecture("x86_64-linux-gnu"), "amd64");
  EXPECT_EQ(locate::debian_architecture("aarch64-linux-gnu"), "arm64");
  EXPECT_EQ(locate::debian_architecture("arm-linux-gnueabihf"), "armhf");
  EXPECT_EQ(locate::debian_architecture("arm-linux-gnueabi"), "armel");
  EXPECT_EQ(locate::debian_architecture("pdp11-none"), "");
}

class Mentions : public PackageLists {
 protected:
  std::vector<std::string> names(const std::vector<model::Finding>& findings = {}) {
    locate::Packages packages(place.path());
    std::vector<std::string> out;
    for (const auto& mention : locate::mentions(place.path(), findings, packages, describe::is_build_program))
      out.push_back(mention.name);
    return out;
  }
};

TEST_F(Mentions, PackagesOfInstallCommands) {
  place.write("README.md",
              "# Yard\n\n    sudo apt-get install -y libclay-dev libpng-dev \\\n        libslip-dev && ./go\n\n"
              "apt install build-essential cmake\n");
  EXPECT_EQ(names(), (std::vector<std::string>{"libclay-dev", "libpng-dev", "libslip-dev"}));
  model::Finding png = missing(model::RequirementKind::library, "libpng");
  png.found = true;
  EXPECT_EQ(names({png}), (std::vector<std::string>{"libclay-dev", "libslip-dev"}));
}

TEST_F(Mentions, NamesUnderHeadingsOfRequirements) {
  place.write("INSTALL",
              "Yard\n====\n\nuses zlib and love\n\nRequirements\n------------\n\n* zlib 1.2\n* OpenSSL or "
              "nothing\n\nUse\n---\n\ncurl it\n");
  EXPECT_EQ(names(), (std::vector<std::string>{"zlib", "OpenSSL"}));
}

TEST_F(Mentions, ContainersAndContinuousIntegrationAreSetUp) {
  place.write("Dockerfile", "FROM yard\nRUN apt-get update && apt-get install -y libclay-dev \\\n  libslip-dev\n");
  place.write(".github/workflows/build.yml", "      run: sudo apt install libkiln-dev\n# Requirements\nzlib\n");
  place.write(".travis.yml",
              "addons:\n  apt:\n    packages:\n      - libglaze-dev\n      - 'libsalt-dev'\nscript: make\n");
  EXPECT_EQ(names(),
            (std::vector<std::string>{"libglaze-dev", "libsalt-dev", "libclay-dev", "libslip-dev", "libkiln-dev"}));
}

TEST_F(Mentions, OtherFilesAndBytesAreLeft) {
  place.write("NEWS", "apt install libclay-dev\n");
  place.write("README.png", "apt install libclay-dev\n");
  place.write("README", std::string("apt install libclay-dev\n\0", 25));
  place.write("docs/building.md", "## Dependencies\n\nlibcurl\n");
  EXPECT_EQ(names(), (std::vector<std::string>{"libcurl"}));
}

}  // namespace
}  // namespace coctilis::test

# The commands of a build, which scripts extend by classes of their own.
import glob
import os
import shutil
import sys
import sysconfig

from .compiler import Compiler
from .cython_sources import cython_rule, expanded
from .rules import COMPILED, copy_file, copy_tree, give_up, plain, quoted, rules, spawn, words, options_in


class Command:
    sub_commands = []
    user_options, boolean_options, help_options, negative_opt, description = [], [], [], {}, ''

    def __init__(self, dist, **more):
        self.distribution = dist
        self.verbose, self.dry_run, self.force, self.help, self.finalized = 1, 0, 0, 0, 0
        self.initialize_options()
        for key, value in list(dist.command_options.get(self.get_command_name(), {}).items()) + list(more.items()):
            setattr(self, key, value)

    def initialize_options(self):
        pass

    def finalize_options(self):
        pass

    def run(self):
        pass

    def ensure_finalized(self):
        if not self.finalized:
            self.finalize_options()
        self.finalized = 1

    def get_command_name(self):
        return getattr(self, 'command_name', type(self).__name__)

    def get_finalized_command(self, command, create=1):
        out = self.distribution.get_command_obj(command)
        out.ensure_finalized()
        return out

    def reinitialize_command(self, command, reinit_subcommands=0, **more):
        return self.distribution.reinitialize_command(command, **more)

    def run_command(self, command):
        self.distribution.run_command(command)

    def get_sub_commands(self):
        return [name for name, holds in self.sub_commands if holds is None or holds(self)]

    def set_undefined_options(self, command, *pairs):
        other = self.get_finalized_command(command)
        for theirs, ours in pairs:
            if getattr(self, ours, None) is None:
                setattr(self, ours, getattr(other, theirs, None))

    def ensure_string(self, option, default=None):
        if getattr(self, option) is None:
            setattr(self, option, default)

    def ensure_string_list(self, option):
        setattr(self, option, words(getattr(self, option)))

    def ensure_filename(self, option):
        pass

    ensure_dirname = ensure_filename

    def announce(self, message, level=1):
        print(message)

    warn = announce

    def debug_print(self, message):
        pass

    def mkpath(self, name, mode=0o777):
        os.makedirs(name, exist_ok=True)

    def copy_file(self, infile, outfile, *given, **more):
        return copy_file(infile, outfile)

    def copy_tree(self, infile, outfile, *given, **more):
        return copy_tree(infile, outfile)

    def move_file(self, source, target, level=1):
        return shutil.move(source, target)

    def make_file(self, infiles, outfile, func, args, *given, **more):
        func(*args)

    def execute(self, func, args, msg=None, level=1):
        func(*args)

    def spawn(self, command, search_path=1, level=1):
        spawn(command)


class build(Command):
    def initialize_options(self):
        self.build_base, self.build_lib, self.build_temp, self.build_scripts = (
            'build',
            'build/lib',
            'build/temp',
            'build/scripts',
        )
        self.build_purelib = self.build_platlib = 'build/lib'
        self.compiler = self.debug = self.parallel = None
        self.plat_name, self.executable = sysconfig.get_platform(), sys.executable

    def run(self):
        for command in self.get_sub_commands():
            self.run_command(command)

    def has_pure_modules(self):
        return self.distribution.has_pure_modules()

    def has_c_libraries(self):
        return self.distribution.has_c_libraries()

    def has_ext_modules(self):
        return self.distribution.has_ext_modules()

    def has_scripts(self):
        return bool(self.distribution.scripts)

    sub_commands = [('build_py', has_pure_modules), ('build_clib', has_c_libraries), ('build_ext', has_ext_modules)]


class build_py(Command):
    def initialize_options(self):
        self.build_lib = 'build/lib'
        self.py_modules = self.package = self.package_data = self.package_dir = None
        self.compile, self.optimize, self.editable_mode = 0, 0, False
        self.data_files = []

    def finalize_options(self):
        self.packages, self.py_modules = self.distribution.packages or [], self.distribution.py_modules or []
        self.package_dir = dict(self.distribution.package_dir or {})
        self.package_data = dict(self.distribution.package_data or {})

    def get_package_dir(self, package):
        parts, tail = package.split('.') if package else [], []
        while parts:
            if '.'.join(parts) in self.package_dir:
                return os.path.join(self.package_dir['.'.join(parts)], *tail)
            tail.insert(0, parts.pop())
        return os.path.join(self.package_dir.get('', ''), *tail)

    def check_package(self, package, package_dir):
        return None

    def find_package_modules(self, package, package_dir):
        return [
            (package, os.path.splitext(os.path.basename(path))[0], path)
            for path in sorted(glob.glob(os.path.join(package_dir or '.', '*.py')))
            if os.path.abspath(path) != os.path.abspath(sys.argv[0])
        ]

    def find_modules(self):
        out = []
        for name in self.py_modules:
            package, _, module = name.rpartition('.')
            out.append((package, module, os.path.join(self.get_package_dir(package), module + '.py')))
        return out

    def find_all_modules(self):
        out = self.find_modules()
        for package in self.packages:
            out += self.find_package_modules(package, self.get_package_dir(package))
        return out

    def find_data_files(self, package, src_dir):
        patterns = list(self.package_data.get('', [])) + list(self.package_data.get(package, []))
        found = [path for pattern in patterns for path in glob.glob(os.path.join(src_dir, pattern), recursive=True)]
        return sorted({path for path in found if os.path.isfile(path)})

    def find_listed_files(self):
        """What MANIFEST.in names, of a tree that says that it goes with its packages."""
        if not getattr(self.distribution, 'include_package_data', None) or not os.path.exists('MANIFEST.in'):
            return set()
        out = set()
        with open('MANIFEST.in') as lines:
            said = [line.split() for line in lines if line.strip() and not line.lstrip().startswith('#')]
        for what, *of in said:
            if what in ('graft', 'prune'):
                patterns = [folder + '/**' for folder in of]
            elif what.startswith('recursive-'):
                patterns = [of[0] + '/**/' + pattern for pattern in of[1:]]
            else:
                patterns = ['**/' + pattern if what.startswith('global-') else pattern for pattern in of]
            found = {os.path.normpath(one) for pattern in patterns for one in glob.glob(pattern, recursive=True)}
            out = out - found if what == 'prune' or what.endswith('exclude') else out | found
        return {path for path in out if os.path.isfile(path) and not path.endswith(COMPILED + ('.py', '.h', '.pyc'))}

    def get_module_outfile(self, build_dir, package, module):
        return os.path.join(
            build_dir,
            *(list(package.split('.') if isinstance(package, str) and package else package or []) + [module + '.py'])
        )

    def build_module(self, module, module_file, package):
        return copy_file(module_file, self.get_module_outfile(self.build_lib, package, module))

    def build_modules(self):
        for package, module, path in self.find_modules():
            self.build_module(module, path, package)

    def build_packages(self):
        for package in self.packages:
            for _, module, path in self.find_package_modules(package, self.get_package_dir(package)):
                self.build_module(module, path, package)

    def build_package_data(self):
        listed = self.find_listed_files()
        for package in self.packages:
            folder = self.get_package_dir(package)
            below = os.path.normpath(folder or '.') + '/'
            for path in self.find_data_files(package, folder) + sorted(
                one for one in listed if one.startswith(below)
            ):
                copy_file(
                    path, os.path.join(self.build_lib, *package.split('.'), os.path.relpath(path, folder or '.'))
                )

    def byte_compile(self, paths):
        pass

    def get_source_files(self):
        return [path for _, _, path in self.find_all_modules()]

    def get_outputs(self, include_bytecode=1):
        return [
            self.get_module_outfile(self.build_lib, package, module) for package, module, _ in self.find_all_modules()
        ]

    def run(self):
        self.build_modules()
        self.build_packages()
        self.build_package_data()


class build_clib(Command):
    def initialize_options(self):
        self.build_clib = self.build_temp = 'build/temp'
        self.libraries = self.include_dirs = self.define = self.undef = self.debug = None
        self.compiler = None

    def finalize_options(self):
        self.libraries = self.distribution.libraries
        self.include_dirs = words(self.include_dirs or self.distribution.include_dirs)

    def get_library_names(self):
        return [name for name, _ in self.libraries or []]

    def check_library_list(self, libraries):
        pass

    def build_libraries(self, libraries):
        for name, said in libraries:
            sources = [os.fspath(one) for one in said.get('sources', [])]
            objects = self.compiler.compile(
                sources,
                output_dir=os.path.join(self.build_temp, 'lib' + name),
                macros=said.get('macros'),
                include_dirs=words(said.get('include_dirs')) + self.include_dirs,
                extra_postargs=words(said.get('cflags')) + words(said.get('extra_compile_args')),
            )
            self.compiler.create_static_lib(objects, name, output_dir=self.build_clib)

    def run(self):
        if self.libraries:
            self.compiler = Compiler()
            self.build_libraries(self.libraries)


class build_ext(Command):
    def initialize_options(self):
        for key in (
            'extensions',
            'include_dirs',
            'define',
            'undef',
            'libraries',
            'library_dirs',
            'rpath',
            'swig_opts',
        ):
            setattr(self, key, None)
        self.build_lib, self.build_temp, self.inplace, self.package = 'build/lib', 'build/temp', 0, None
        for key in ('link_objects', 'debug', 'compiler', 'swig', 'swig_cpp', 'parallel', 'user'):
            setattr(self, key, None)
        self.plat_name, self.editable_mode = sysconfig.get_platform(), False

    def finalize_options(self):
        self.extensions = self.distribution.ext_modules or []
        for key in ('include_dirs', 'library_dirs', 'rpath', 'libraries', 'undef', 'swig_opts'):
            setattr(self, key, words(getattr(self, key)))
        self.include_dirs += words(self.distribution.include_dirs)
        headers = [sysconfig.get_path('include'), sysconfig.get_path('platinclude')]
        self.include_dirs += [one for one in dict.fromkeys(headers) if one not in self.include_dirs]
        if isinstance(self.define, str):
            self.define = [
                (name, value or '1') for name, _, value in (one.partition('=') for one in words(self.define))
            ]

    def check_extensions_list(self, extensions):
        pass

    def get_source_files(self):
        return [source for one in self.extensions for source in one.sources]

    def get_outputs(self):
        return [self.get_ext_fullpath(one.name) for one in self.extensions]

    def get_ext_fullname(self, name):
        return name if self.package is None else self.package + '.' + name

    def ending(self, name):
        for extension in self.extensions or []:
            if extension.name == name and getattr(extension, 'py_limited_api', False):
                return '.abi3.so'
        return sysconfig.get_config_var('EXT_SUFFIX') or '.so'

    def get_ext_filename(self, fullname):
        return os.path.join(*fullname.split('.')) + self.ending(fullname)

    def get_ext_fullpath(self, name):
        return os.path.join(self.build_lib, self.get_ext_filename(self.get_ext_fullname(name)))

    def get_export_symbols(self, extension):
        return extension.export_symbols

    def get_libraries(self, extension):
        return words(extension.libraries)

    def swig_sources(self, sources, extension):
        out = []
        for source in sources:
            if not source.endswith('.i'):
                out.append(source)
                continue
            options = self.swig_opts + list(extension.swig_opts or [])
            if not shutil.which('swig'):
                give_up('swig is not there')
            made = source[:-2] + '_wrap' + ('.cpp' if '-c++' in options else '.c')
            folder = os.path.join(self.build_lib, *extension.name.split('.')[:-1])
            options += [] if '-outdir' in options else ['-outdir', folder]
            rules.add(
                made,
                [source],
                ['mkdir -p ' + plain(folder), 'swig -python %s -o $@ %s' % (quoted(options), plain(source))],
            )
            out.append(made)
        return out

    def cython_sources(self, sources, extension):
        return [cython_rule(source, extension) if source.endswith(('.pyx', '.py')) else source for source in sources]

    def build_extension(self, extension):
        sources = self.swig_sources(
            self.cython_sources([os.fspath(one) for one in extension.sources], extension), extension
        )
        strange = [one for one in sources if not one.endswith(COMPILED)]
        if strange:
            give_up('nobody here compiles %s of the extension module %s' % (strange[0], extension.name))
        temporary = os.path.join(self.build_temp, extension.name)
        macros = list(self.define or []) + list(extension.define_macros or [])
        macros += [(one,) for one in self.undef + list(extension.undef_macros or [])]
        objects = self.compiler.compile(
            sources,
            output_dir=temporary,
            macros=macros,
            include_dirs=words(extension.include_dirs) + self.include_dirs,
            extra_postargs=options_in(extension.extra_compile_args),
            depends=list(extension.depends or []),
        )
        objects += [os.fspath(one) for one in list(extension.extra_objects or []) + words(self.link_objects)]
        language = extension.language or self.compiler.detect_language(sources)
        archives = ['build/temp'] if self.distribution.has_c_libraries() else []
        self.compiler.link_shared_object(
            objects,
            self.get_ext_fullpath(extension.name),
            libraries=self.get_libraries(extension) + self.libraries,
            library_dirs=words(extension.library_dirs) + self.library_dirs + archives,
            runtime_library_dirs=words(extension.runtime_library_dirs) + self.rpath,
            extra_postargs=options_in(extension.extra_link_args),
            build_temp=self.build_temp,
            target_lang=language,
        )
        test = ('load', self.get_ext_fullname(extension.name))
        if test not in rules.tests:
            rules.tests.append(test)

    def build_extensions(self):
        for extension in self.extensions:
            self.build_extension(extension)

    def run(self):
        if not self.extensions:
            return
        headers = sysconfig.get_path('include')
        if not os.path.exists(os.path.join(headers, 'Python.h')):
            give_up('Python.h is not there: %s/Python.h' % headers)
        if self.distribution.has_c_libraries():
            self.libraries += self.get_finalized_command('build_clib').get_library_names()
        self.compiler = Compiler()
        self.extensions = [one for extension in self.extensions for one in expanded(extension)]
        self.build_extensions()


class Nothing(Command):
    """A command that has no part in a build."""

    def __getattr__(self, name):
        if name.startswith('__'):
            raise AttributeError(name)
        return None


def nothing(name):
    return type(name, (Nothing,), {'command_name': name})


commands = {one.__name__: one for one in (build, build_py, build_clib, build_ext)}
for unused in (
    'install',
    'install_lib',
    'install_data',
    'install_scripts',
    'install_headers',
    'install_egg_info',
    'sdist',
    'develop',
    'egg_info',
    'bdist',
    'bdist_egg',
    'bdist_rpm',
    'bdist_wheel',
    'bdist_dumb',
    'bdist_wininst',
    'clean',
    'test',
    'upload',
    'register',
    'check',
    'build_scripts',
    'easy_install',
    'alias',
    'rotate',
    'saveopts',
    'setopt',
    'dist_info',
    'editable_wheel',
    'manifest_maker',
    'upload_docs',
):
    commands[unused] = nothing(unused)

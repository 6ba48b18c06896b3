# A compiler as scripts use it: what they have it do becomes rules, but for what they try.
import os
import shlex
import subprocess
import tempfile

from .rules import C_PLUS_PLUS, COMPILED, CompileError, LinkError, plain, quoted, rules


class AnyCompiler:
    """What scripts replace parts of to compile several files at once: rules need none of that."""

    def compile(self, *given, **more):
        raise NotImplementedError


class Compiler(AnyCompiler):
    """A compiler whose work becomes rules; `tries`: that does it at once, to find something out."""

    compiler_type = 'unix'
    src_extensions = list(COMPILED)
    obj_extension, static_lib_extension, shared_lib_extension, exe_extension = '.o', '.a', '.so', ''
    language_map = {'.c': 'c', '.cc': 'c++', '.cpp': 'c++', '.cxx': 'c++', '.m': 'objc'}
    executables = {}

    def __init__(self, tries=False):
        self.tries = tries
        self.verbose = self.dry_run = self.force = 0
        self.include_dirs, self.macros, self.libraries, self.library_dirs = [], [], [], []
        self.runtime_library_dirs, self.objects = [], []
        cc = shlex.split(os.environ.get('CC', 'cc'))
        cxx = shlex.split(os.environ.get('CXX', 'c++'))
        self.cc, self.compiler, self.compiler_so = cc[0], cc + ['-g', '-O2'], cc + ['-g', '-O2', '-fPIC']
        self.compiler_cxx, self.compiler_so_cxx = cxx + [], cxx + ['-g', '-O2', '-fPIC']
        self.linker_so, self.linker_so_cxx, self.linker_exe = cc + ['-shared'], cxx + ['-shared'], cc + []
        self.archiver, self.preprocessor = ['ar'], cc + ['-E']
        self.as_given = {key: list(getattr(self, key)) for key in ('compiler_so', 'linker_so')}

    def set_executables(self, **given):
        for key, value in given.items():
            self.set_executable(key, value)

    def set_executable(self, key, value):
        setattr(self, key, shlex.split(value) if isinstance(value, str) else list(value))

    def command(self, key, variables):
        """How a rule calls a program: by the makefile's variables, with what the script has put to it or in its place."""
        given, now = self.as_given[key], list(getattr(self, key))
        if now[:1] != given[:1]:
            return quoted(now)
        return ' '.join([variables] + [quoted([one]) for one in now[1:] if one not in given])

    def define_macro(self, name, value=None):
        self.macros = [one for one in self.macros if one[0] != name] + [(name, value)]

    def undefine_macro(self, name):
        self.macros = [one for one in self.macros if one[0] != name] + [(name,)]

    def detect_language(self, sources):
        return (
            'c++'
            if any(one.endswith(C_PLUS_PLUS) for one in ([sources] if isinstance(sources, str) else sources))
            else 'c'
        )

    def object_filenames(self, sources, strip_dir=0, output_dir=''):
        out = []
        for source in sources:
            stem = os.path.splitext(os.path.normpath(source))[0].lstrip('/')
            stem = os.path.basename(stem) if strip_dir else stem.replace('..', '__')
            out.append(os.path.join(output_dir or '', stem + '.o'))
        return out

    def shared_object_filename(self, name, strip_dir=0, output_dir=''):
        return os.path.join(output_dir or '', name + '.so')

    def library_filename(self, name, lib_type='static', strip_dir=0, output_dir=''):
        return os.path.join(output_dir or '', 'lib%s.%s' % (name, 'a' if lib_type == 'static' else 'so'))

    def executable_filename(self, name, strip_dir=0, output_dir=''):
        return os.path.join(output_dir or '', name)

    def compile(
        self,
        sources,
        output_dir=None,
        macros=None,
        include_dirs=None,
        debug=0,
        extra_preargs=None,
        extra_postargs=None,
        depends=None,
    ):
        options = list(extra_preargs or [])
        for macro in self.macros + list(macros or []):
            options.append(
                '-U' + macro[0]
                if len(macro) == 1
                else '-D' + macro[0]
                if macro[1] is None
                else '-D%s=%s' % tuple(macro[:2])
            )
        for folder in list(include_dirs or []) + self.include_dirs:
            if '-I' + os.fspath(folder) not in options:
                options.append('-I' + os.fspath(folder))
        objects = self.object_filenames(sources, 0, output_dir or '')
        for source, target in zip(sources, objects):
            is_c_plus_plus = source.endswith(C_PLUS_PLUS)
            after = [target] + list(extra_postargs or [])
            if self.tries:
                os.makedirs(os.path.dirname(target) or '.', exist_ok=True)
                self.run(
                    (self.compiler_so_cxx if is_c_plus_plus else self.compiler_so)
                    + options
                    + ['-c', source, '-o']
                    + after,
                    CompileError,
                )
                continue
            variables = '$(CXX) $(CPPFLAGS) $(CXXFLAGS)' if is_c_plus_plus else '$(CC) $(CPPFLAGS) $(CFLAGS)'
            rules.add(
                target,
                [source] + [one for one in depends or [] if os.path.isfile(one)],
                [
                    '%s -fPIC -fwrapv $(NDEBUG) %s -c %s -o %s'
                    % (self.command('compiler_so', variables), quoted(options), plain(source), quoted(after))
                ],
            )
        return objects

    def run(self, command, error):
        try:
            done = subprocess.run(
                command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, errors='replace'
            )
        except OSError as problem:
            raise error(str(problem))
        if done.returncode != 0:
            raise error('command %r failed with exit status %d' % (command[0], done.returncode))

    def link(
        self,
        target_desc,
        objects,
        output_filename,
        output_dir=None,
        libraries=None,
        library_dirs=None,
        runtime_library_dirs=None,
        export_symbols=None,
        debug=0,
        extra_preargs=None,
        extra_postargs=None,
        build_temp=None,
        target_lang=None,
    ):
        target = os.path.join(output_dir, output_filename) if output_dir else output_filename
        after = ['-L' + os.fspath(one) for one in list(library_dirs or []) + self.library_dirs]
        after += [
            '-Wl,-rpath,' + os.fspath(one) for one in list(runtime_library_dirs or []) + self.runtime_library_dirs
        ]
        after += [
            os.fspath(one) if os.path.dirname(os.fspath(one)) else '-l' + one
            for one in list(libraries or []) + self.libraries
        ]
        after += list(extra_postargs or [])
        objects = list(objects) + self.objects
        kind = [] if target_desc == 'executable' else ['-shared']
        if self.tries:
            os.makedirs(os.path.dirname(target) or '.', exist_ok=True)
            linker = self.compiler_cxx if target_lang == 'c++' else shlex.split(os.environ.get('CC', 'cc'))
            return self.run(linker + kind + list(extra_preargs or []) + objects + ['-o', target] + after, LinkError)
        archives = [path for path in self.archives(after) if path not in objects]
        rules.add(
            target,
            objects + archives,
            [
                '%s $(LDFLAGS) %s %s -o $@ %s'
                % (
                    self.command('linker_so', '$(CXX)' if target_lang == 'c++' else '$(CC)'),
                    quoted(kind + list(extra_preargs or [])),
                    ' '.join(plain(one) for one in objects),
                    quoted(after),
                )
            ],
            goal=True,
        )

    def archives(self, options):
        """The archives of this very script among what is linked."""
        folders = [os.path.normpath(one[2:]) for one in options if one.startswith('-L')]
        return [
            path
            for one in options
            if one.startswith('-l')
            for folder in folders
            for path in [os.path.join(folder, 'lib%s.a' % one[2:])]
            if path in rules.made
        ]

    def link_shared_object(self, objects, output_filename, *given, **more):
        return self.link('shared_object', objects, output_filename, *given, **more)

    def link_shared_lib(self, objects, output_libname, output_dir=None, *given, **more):
        return self.link(
            'shared_library', objects, self.library_filename(output_libname, 'shared'), output_dir, *given, **more
        )

    def link_executable(self, objects, output_progname, *given, **more):
        return self.link('executable', objects, output_progname, *given, **more)

    def create_static_lib(self, objects, output_libname, output_dir=None, debug=0, target_lang=None):
        target = self.library_filename(output_libname, output_dir=output_dir)
        rules.add(target, objects, ['rm -f $@', '$(AR) rcs $@ %s' % ' '.join(plain(one) for one in objects)])

    def find_library_file(self, dirs, lib, debug=0):
        for folder in dirs:
            for ending in ('.so', '.a'):
                path = os.path.join(folder, 'lib' + lib + ending)
                if os.path.exists(path):
                    return path
        return None

    def has_function(self, funcname, includes=None, include_dirs=None, libraries=None, library_dirs=None):
        before = ''.join('#include "%s"\n' % one for one in includes or []) or 'char %s(void);\n' % funcname
        body = before + 'int main(void) { %s(); return 0; }\n' % funcname
        return attempt('link', body, include_dirs, libraries, library_dirs)

    def announce(self, message, level=1):
        print(message)

    warn = announce

    def debug_print(self, message):
        pass

    def spawn(self, command, **more):
        subprocess.check_call(command)

    def preprocess(
        self, source, output_file=None, macros=None, include_dirs=None, extra_preargs=None, extra_postargs=None
    ):
        self.run(
            self.preprocessor
            + list(extra_preargs or [])
            + [source]
            + (['-o', output_file] if output_file else [])
            + list(extra_postargs or []),
            CompileError,
        )


# add_library(NAME), set_libraries(NAMES) and so on.
for one, several, attribute in (
    ('include_dir', 'include_dirs', 'include_dirs'),
    ('library', 'libraries', 'libraries'),
    ('library_dir', 'library_dirs', 'library_dirs'),
    ('runtime_library_dir', 'runtime_library_dirs', 'runtime_library_dirs'),
    ('link_object', 'link_objects', 'objects'),
):
    setattr(Compiler, 'add_' + one, lambda self, value, key=attribute: getattr(self, key).append(value))
    setattr(Compiler, 'set_' + several, lambda self, values, key=attribute: setattr(self, key, list(values)))


def attempt(how_far, body, include_dirs=None, libraries=None, library_dirs=None, language='c'):
    """True when a source is preprocessed, compiled, linked or run, as `how_far` says. It is tried at once."""
    compiler = Compiler(tries=True)
    with tempfile.TemporaryDirectory() as folder:
        source = os.path.join(folder, 'asked' + ('.cpp' if language == 'c++' else '.c'))
        with open(source, 'w') as out:
            out.write(body + '\n')
        try:
            if how_far == 'preprocess':
                options = ['-I' + os.fspath(one) for one in include_dirs or []]
                compiler.preprocess(source, os.path.join(folder, 'asked.i'), extra_preargs=options)
                return True
            objects = compiler.compile([source], output_dir=folder, include_dirs=include_dirs)
            if how_far != 'compile':
                compiler.link_executable(objects, 'asked', folder, libraries, library_dirs, target_lang=language)
        except (CompileError, LinkError):
            return False
        if how_far != 'run':
            return True
        try:
            return subprocess.run([os.path.join(folder, 'asked')], timeout=60).returncode == 0
        except (OSError, subprocess.TimeoutExpired):
            return False


def new_compiler(*given, **more):
    return Compiler(tries=True)


def get_default_compiler(*given):
    return 'unix'

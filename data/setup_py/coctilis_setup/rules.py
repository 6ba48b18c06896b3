# The makefile that is written, what is copied at once, and what an extension module is.
import os
import re
import shlex
import shutil
import subprocess
import sysconfig


MAKEFILE = 'Makefile.setup'
TESTS = 'Makefile.setup.tests'
COPIED = 'build/copied'
C_PLUS_PLUS = ('.cpp', '.cc', '.cxx', '.c++', '.C', '.mm')
COMPILED = C_PLUS_PLUS + ('.c', '.s', '.S', '.m')
ODD = re.compile(r'''[\s$#%:;&|<>()*?\[\]{}`!='"\\]''')


def forget():
    """What was made the last time must not pass for what the script makes now."""
    for left in (MAKEFILE, TESTS):
        if os.path.exists(left):
            os.unlink(left)
    if os.path.exists(COPIED):
        with open(COPIED) as lines:
            for line in lines.read().split('\n'):
                if line.startswith('build/lib/') and os.path.isfile(line):
                    os.unlink(line)
        os.unlink(COPIED)


class CompileError(Exception):
    pass


class LinkError(Exception):
    pass


class SetupError(Exception):
    pass


def give_up(message):
    raise SystemExit('error: ' + message)


def plain(path):
    """A name as it can stand in a makefile."""
    path = os.fspath(path)
    if ODD.search(path):
        give_up('the name %r cannot be written into a makefile' % path)
    return os.path.normpath(path)


def words(value):
    if value is None:
        return []
    if isinstance(value, (str, os.PathLike)):
        return re.split(r'[,\s]+', os.fspath(value).strip()) if os.fspath(value).strip() else []
    return [os.fspath(one) if isinstance(one, os.PathLike) else one for one in value]


def options_in(value):
    """Options, given as a list or as they stand in a shell; what is no text, as macros are, stays as it is."""
    if isinstance(value, str):
        return shlex.split(value)
    return [os.fspath(one) if isinstance(one, os.PathLike) else one for one in value or []]


def quoted(arguments):
    return ' '.join(shlex.quote(str(one)).replace('$', '$$') for one in arguments)


class Rules:
    """The makefile, as far as it is known."""

    def __init__(self):
        self.text, self.goals, self.made, self.tests = [], [], {}, []
        self.installs = []  # commands beside those for what lies in build/lib

    def add(self, target, sources, commands, goal=False):
        target = plain(target)
        text = '%s: %s\n\t@mkdir -p %s\n' % (
            target,
            ' '.join(plain(one) for one in sources),
            os.path.dirname(target) or '.',
        )
        text += ''.join('\t%s\n' % command for command in commands)
        if self.made.setdefault(target, text) == text and text not in self.text:
            self.text.append(text)
        elif self.made[target] != text:
            give_up('%s is made in two ways' % target)
        if goal and target not in self.goals:
            self.goals.append(target)

    def write(self):
        folder = sysconfig.get_path('platlib', 'posix_prefix', {'base': '$(prefix)', 'platbase': '$(prefix)'})
        with open(MAKEFILE, 'w') as out:
            out.write('prefix = /usr/local\nCC ?= cc\nCXX ?= c++\nAR = ar\nCFLAGS ?= -g -O2\nCXXFLAGS ?= $(CFLAGS)\n')
            # Assertions count where nothing is optimised.
            out.write('NDEBUG = $(if $(findstring -O0,$(CFLAGS)),,-DNDEBUG)\n')
            out.write('.PHONY: all install\nall: %s\n\n' % ' '.join(self.goals))
            out.write('\n'.join(self.text))
            out.write('\ninstall: all\n\tmkdir -p $(DESTDIR)%s\n' % folder)
            out.write('\tcp -R build/lib/. $(DESTDIR)%s/\n' % folder)
            out.write(''.join('\t%s\n' % command for command in self.installs))
        with open(TESTS, 'w') as out:
            out.write(''.join('%s\t%s\n' % one for one in self.tests))

    def install(self, source, folder, mode='644'):
        """A file that is installed into a folder below the prefix."""
        to = '$(DESTDIR)' + ('' if folder.startswith('/') else '$(prefix)/') + quoted([folder])
        self.installs += ['mkdir -p %s' % to, 'install -m %s %s %s/' % (mode, quoted([source]), to)]


rules = Rules()


class Extension:
    lists = (
        'include_dirs',
        'define_macros',
        'undef_macros',
        'library_dirs',
        'libraries',
        'runtime_library_dirs',
        'extra_objects',
        'extra_compile_args',
        'extra_link_args',
        'export_symbols',
        'swig_opts',
        'depends',
    )

    def __init__(self, name, sources, *given, **more):
        self.name, self.sources = name, [os.fspath(one) for one in sources]
        self.language = self.optional = None
        self.py_limited_api = False
        self.cython = None
        for key in self.lists:
            setattr(self, key, [])
        for key, value in list(zip(self.lists, given)) + list(more.items()):
            setattr(self, key, options_in(value) if key in self.lists else value)

    def __repr__(self):
        return 'Extension(%r)' % self.name


class Library(Extension):
    pass


def note_copy(path):
    os.makedirs('build', exist_ok=True)
    with open(COPIED, 'a') as out:
        out.write(os.path.normpath(path) + '\n')


def copy_file(source, target, *given, **more):
    source, target = os.fspath(source), os.fspath(target)
    if os.path.isdir(target):
        target = os.path.join(target, os.path.basename(source))
    os.makedirs(os.path.dirname(target) or '.', exist_ok=True)
    if os.path.abspath(source) != os.path.abspath(target):
        if os.path.exists(target):
            os.unlink(target)
        shutil.copyfile(source, target)
        shutil.copymode(source, target)
        note_copy(target)
    return target, 1


def copy_tree(source, target, *given, **more):
    out = []
    for folder, _, names in os.walk(source):
        for name in sorted(names):
            path = os.path.join(folder, name)
            out.append(copy_file(path, os.path.join(target, os.path.relpath(path, source)))[0])
    return out


def spawn(command, *given, **more):
    try:
        subprocess.check_call(list(command))
    except (OSError, subprocess.CalledProcessError) as problem:
        raise SetupError(str(problem))

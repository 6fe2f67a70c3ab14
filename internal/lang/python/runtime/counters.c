/* Counters of woven Python, in memory that is mapped to a file, and the objects that
 * stand as constants in woven code:
 *
 *   -PROBE       has the probe's effect, and is None
 *   PAIR @ value has one of two effects, by whether the value is true, and is the value
 *
 * It is built once, without the headers of any Python and without a C library, and
 * runs in all versions since 3.9 that have one lock for all threads: it declares what
 * it uses of the stable binary interface (PEP 384) itself.
 */

typedef long ssize;
typedef unsigned long u64;

typedef struct object { ssize refs; struct object *type; } object;
typedef object *(*function)(object *, object *);
typedef struct { const char *name; function call; int flags; const char *doc; } method;
typedef struct { int slot; void *value; } slot;
typedef struct { const char *name; int basic, item; unsigned flags; slot *slots; } spec;
typedef struct {
	object head; void *init; ssize index; object *copy;
	const char *name, *doc; ssize size; method *methods; void *slots, *traverse, *clear, *release;
} definition;

extern object _Py_NoneStruct, _Py_TrueStruct, _Py_FalseStruct;
extern object PyLong_Type, PyFloat_Type, PyUnicode_Type, PyBytes_Type, PyList_Type, PyDict_Type, PyTuple_Type, PySet_Type, PyFrozenSet_Type, PyType_Type, PyFunction_Type, PyModule_Type;
extern object *PyExc_SystemExit, *PyExc_KeyboardInterrupt, *PyExc_OSError;

object *PyModule_Create2(definition *, int);
int PyModule_AddObject(object *, const char *, object *);
object *PyType_FromSpec(spec *);
void *PyType_GetSlot(object *, int);
u64 PyType_GetFlags(object *);
object *PyType_GenericAlloc(object *, ssize);
void PyObject_Free(void *);
void Py_IncRef(object *);
void Py_DecRef(object *);
int PyObject_IsTrue(object *);
int PyArg_ParseTuple(object *, const char *, ...);
object *Py_BuildValue(const char *, ...);
object *PyErr_Format(object *, const char *, ...);
void PyErr_SetObject(object *, object *);
int PyErr_ExceptionMatches(object *);
object *PyMemoryView_FromMemory(char *, ssize, int);
object *PyEval_GetFrame(void);
object *PyEval_EvalCode(object *, object *, object *);
object *PyImport_AddModule(const char *);
object *PyModule_GetDict(object *);
int PyDict_SetItemString(object *, const char *, object *);
int PyDict_DelItemString(object *, const char *);
object *PyObject_CallFunction(object *, const char *, ...);
object *PyTuple_GetItem(object *, ssize);
int PySys_AddAuditHook(int (*)(const char *, object *, void *), void *);
int Py_AtExit(void (*)(void));
void PyErr_Clear(void);

#define None (&_Py_NoneStruct)

static long ask(long n, long a, long b, long c, long d, long e, long f)
{
	long r;
#if defined(__x86_64__)
	register long r10 __asm__("r10") = d, r8 __asm__("r8") = e, r9 __asm__("r9") = f;
	__asm__ __volatile__("syscall" : "=a"(r) : "a"(n), "D"(a), "S"(b), "d"(c), "r"(r10), "r"(r8), "r"(r9) : "rcx", "r11", "memory");
#elif defined(__aarch64__)
	register long x8 __asm__("x8") = n, x0 __asm__("x0") = a, x1 __asm__("x1") = b, x2 __asm__("x2") = c, x3 __asm__("x3") = d, x4 __asm__("x4") = e, x5 __asm__("x5") = f;
	__asm__ __volatile__("svc 0" : "+r"(x0) : "r"(x8), "r"(x1), "r"(x2), "r"(x3), "r"(x4), "r"(x5) : "memory");
	r = x0;
#else
	r = -38;
#endif
	return r;
}

#if defined(__x86_64__)
enum { MMAP = 9, SIGACTION = 13, GETPID = 39, KILL = 62 };
#else
enum { MMAP = 222, SIGACTION = 134, GETPID = 172, KILL = 129 };
#endif

static char *base;
static ssize room;
static int immortal; /* None needs no counting of references */
static int answers;  /* all types tell their slots, not only those made while running */

/* map(fd, size): maps a file, or another in its place. */
static object *map(object *self, object *args)
{
	int fd;
	ssize size;
	if (!PyArg_ParseTuple(args, "in", &fd, &size))
		return 0;
	long at = ask(MMAP, (long)base, base ? room : size, 3 /* read, write */, base ? 0x11 : 1 /* shared, fixed */, fd, 0);
	if (at < 0 && at > -4096)
		return PyErr_Format(PyExc_OSError, "cannot map counters: error %d", (int)-at);
	if (!base)
		base = (char *)at, room = size;
	Py_IncRef(None);
	return None;
}

/* mapped(): whether a file is. */
static object *mapped(object *self, object *args)
{
	object *answer = base ? &_Py_TrueStruct : &_Py_FalseStruct;
	Py_IncRef(answer);
	return answer;
}

/* view(offset, size): the mapped bytes. */
static object *view(object *self, object *args)
{
	ssize at, size;
	if (!PyArg_ParseTuple(args, "nn", &at, &size))
		return 0;
	return PyMemoryView_FromMemory(base + at, size, 0x200);
}

/* State of one evaluation of an expression, which is that of its frame. */
typedef struct { object *frame; long id; u64 sum, bits[2]; } state;
enum { STATES = 1024 };
static state states[STATES];
static int used;

static state *find(long id, int make)
{
	object *frame = PyEval_GetFrame();
	for (int i = used - 1; i >= 0; i--)
		if (states[i].frame == frame && states[i].id == id)
			return &states[i];
	if (!make)
		return 0;
	if (used == STATES) { /* the oldest were left half-way */
		used = STATES / 2;
		for (int i = 0; i < used; i++)
			states[i] = states[i + STATES - used];
	}
	state *s = &states[used++];
	s->frame = frame, s->id = id, s->sum = s->bits[0] = s->bits[1] = 0;
	return s;
}

static void forget(state *s)
{
	*s = states[--used];
}

enum { TICK, ADD, AT, NOTE, FRESH };

typedef struct {
	object head;
	ssize cell; /* offset of a counter */
	int kind, hits;
	long id, a, b, c;
	u64 masks;
} probe;

static void count(ssize cell, int hits)
{
	if (hits)
		base[cell] = 1;
	else
		++*(u64 *)(base + cell);
}

static void have(probe *p)
{
	int width = p->hits ? 1 : 8;
	state *s;
	switch (p->kind) {
	case ADD: /* a: weight */
		if ((s = find(p->id, 0)))
			s->sum += p->a;
		break;
	case AT: /* a: ways */
		if ((s = find(p->id, 0))) {
			if (s->sum < (u64)p->a)
				count(p->cell + s->sum * width, p->hits);
			forget(s);
		}
		break;
	case NOTE: /* a: condition, b: 1 if false, c: done */
		count(p->cell + (4 * p->a + p->b) * width, p->hits);
		if (!(s = find(p->id, 0)))
			break;
		if (p->a < 64)
			s->bits[p->b] |= 1UL << p->a;
		s->bits[0] &= ~p->masks, s->bits[1] &= ~p->masks;
		if (p->c) {
			for (int i = 0; i < 128; i++)
				if (s->bits[i / 64] >> (i % 64) & 1)
					count(p->cell + (4 * (i % 64) + 2 + i / 64) * width, p->hits);
			forget(s);
		}
		break;
	case FRESH:
		s = find(p->id, 1);
		s->sum = s->bits[0] = s->bits[1] = 0;
		break;
	default:
		count(p->cell, p->hits);
	}
}

static object *none(void)
{
	if (!immortal)
		None->refs++;
	return None;
}

static object *negative(object *self)
{
	probe *p = (probe *)self;
	if (p->kind == TICK) {
		if (p->hits)
			base[p->cell] = 1;
		else
			++*(u64 *)(base + p->cell);
	} else {
		have(p);
	}
	return none();
}

typedef struct { object head; probe *yes, *no; } pair;

static object *probes, *pairs;

static int among(object *t, int id, object **types, int n)
{
	void *f = PyType_GetSlot(t, id);
	for (int i = 0; i < n; i++)
		if (PyType_GetSlot(types[i], id) == f)
			return 1;
	return 0;
}

enum { NB_BOOL = 9, MP_LENGTH = 4, SQ_LENGTH = 45 };

/* safe tells whether asking for the truth of a value runs no code of the program's. */
static int safe(object *v)
{
	static object *numbers[] = {&PyLong_Type, &PyFloat_Type}, *maps[] = {&PyDict_Type, &PyList_Type, &PyTuple_Type, &PyUnicode_Type, &PyBytes_Type}, *sets[] = {&PySet_Type};
	object *t = v->type;
	if (v == None || t == (&_Py_TrueStruct)->type || t == &PyLong_Type || t == &PyUnicode_Type || t == &PyList_Type || t == &PyDict_Type ||
	    t == &PyTuple_Type || t == &PyBytes_Type || t == &PyFloat_Type || t == &PySet_Type || t == &PyFrozenSet_Type || t == &PyType_Type ||
	    t == &PyFunction_Type || t == &PyModule_Type)
		return 1;
	if (!answers && !(PyType_GetFlags(t) & (1UL << 9)))
		return 0;
	if (PyType_GetSlot(t, NB_BOOL))
		return answers && among(t, NB_BOOL, numbers, 2);
	if (PyType_GetSlot(t, MP_LENGTH))
		return answers && among(t, MP_LENGTH, maps, 5);
	if (PyType_GetSlot(t, SQ_LENGTH))
		return answers && among(t, SQ_LENGTH, sets, 1);
	return 1;
}

static object *passed(object *self, object *value)
{
	if (self->type == pairs) {
		pair *p = (pair *)self;
		if (safe(value)) {
			probe *e = PyObject_IsTrue(value) ? p->yes : p->no;
			if (e)
				have(e);
		}
	}
	Py_IncRef(value);
	return value;
}

static void gone(object *self)
{
	object *type = self->type;
	if (type == pairs) {
		pair *p = (pair *)self;
		if (p->yes)
			Py_DecRef((object *)p->yes);
		if (p->no)
			Py_DecRef((object *)p->no);
	}
	PyObject_Free(self);
	Py_DecRef(type);
}

/* What pickles one by value, as part of a function's code, gets of a function in Python
 * (pickled, below) what makes one like it, in this process or in another. */
static object *pickled;

static object *fields(probe *p)
{
	if (!p)
		return Py_BuildValue("");
	return Py_BuildValue("(iinllllk)", p->kind, p->hits, p->cell, p->id, p->a, p->b, p->c, p->masks);
}

static object *reduce(object *self, object *args)
{
	if (self->type == pairs)
		return PyObject_CallFunction(pickled, "(NN)", fields(((pair *)self)->yes), fields(((pair *)self)->no));
	return PyObject_CallFunction(pickled, "(N)", fields((probe *)self));
}

/* pickles(function): sets it. */
static object *pickles(object *self, object *function)
{
	Py_IncRef(function);
	pickled = function;
	return Py_BuildValue("");
}

static method methods[] = {{"__reduce__", reduce, 4, 0}, {0}};
static slot probeSlots[] = {{30 /* nb_negative */, negative}, {52 /* tp_dealloc */, gone}, {64 /* tp_methods */, methods}, {0}};
static slot pairSlots[] = {{75 /* nb_matrix_multiply */, passed}, {52, gone}, {64, methods}, {0}};
static spec probeSpec = {"thrush.probe", sizeof(probe), 0, 1 << 18, probeSlots};
static spec pairSpec = {"thrush.pair", sizeof(pair), 0, 1 << 18, pairSlots};

/* probe(kind, hits, cell, id, a, b, c, masks) */
static object *newProbe(object *self, object *args)
{
	probe *p = (probe *)PyType_GenericAlloc(probes, 0);
	if (p && !PyArg_ParseTuple(args, "iinllllk", &p->kind, &p->hits, &p->cell, &p->id, &p->a, &p->b, &p->c, &p->masks)) {
		Py_DecRef((object *)p);
		return 0;
	}
	return (object *)p;
}

/* pair(yes, no): each a probe or None */
static object *newPair(object *self, object *args)
{
	object *yes, *no;
	if (!PyArg_ParseTuple(args, "OO", &yes, &no))
		return 0;
	pair *p = (pair *)PyType_GenericAlloc(pairs, 0);
	if (!p)
		return 0;
	if (yes != None)
		Py_IncRef(yes), p->yes = (probe *)yes;
	if (no != None)
		Py_IncRef(no), p->no = (probe *)no;
	return (object *)p;
}

static object *script, *loader;

/* interrupted ends the process as one that an interrupt ended. */
static void interrupted(void)
{
	long action[4] = {0};
	ask(SIGACTION, 2, (long)action, 0, 8, 0, 0);
	ask(KILL, ask(GETPID, 0, 0, 0, 0, 0, 0), 2, 0, 0, 0, 0);
}

/* heard runs the woven script in place of the one that the interpreter is about to run,
 * in the very same way, and has it run nothing more. */
static int heard(const char *event, object *args, void *data)
{
	const char *want = "cpython.run_file";
	if (!script)
		return 0;
	while (*want && *want == *event)
		want++, event++;
	if (*want || *event)
		return 0;
	object *code = script, *name = PyTuple_GetItem(args, 0);
	object *dict = PyModule_GetDict(PyImport_AddModule("__main__"));
	script = 0;
	object *l = PyObject_CallFunction(loader, "sO", "__main__", name);
	if (!l) {
		PyErr_Clear();
		return 0;
	}
	PyDict_SetItemString(dict, "__file__", name);
	PyDict_SetItemString(dict, "__cached__", None);
	PyDict_SetItemString(dict, "__loader__", l);
	Py_DecRef(l);
	object *result = PyEval_EvalCode(code, dict, dict);
	if (!result) {
		if (PyErr_ExceptionMatches(PyExc_KeyboardInterrupt))
			Py_AtExit(interrupted);
		return -1;
	}
	Py_DecRef(result);
	if (PyDict_DelItemString(dict, "__file__"))
		PyErr_Clear();
	if (PyDict_DelItemString(dict, "__cached__"))
		PyErr_Clear();
	PyErr_SetObject(PyExc_SystemExit, None);
	return -1;
}

/* run(code, loader): has the code run in place of the script of the command line. */
static object *run(object *self, object *args)
{
	if (!PyArg_ParseTuple(args, "OO", &script, &loader))
		return 0;
	Py_IncRef(script);
	Py_IncRef(loader);
	if (PySys_AddAuditHook(heard, 0))
		return 0;
	return Py_BuildValue("");
}

static method functions[] = {{"map", map, 1, 0}, {"mapped", mapped, 4, 0}, {"view", view, 1, 0}, {"probe", newProbe, 1, 0}, {"pair", newPair, 1, 0}, {"run", run, 1, 0}, {"pickles", pickles, 8, 0}, {0}};
static definition module = {{1, 0}, 0, 0, 0, "_thrush", 0, -1, functions, 0, 0, 0, 0};

extern const u64 Py_Version __attribute__((weak));

__attribute__((visibility("default"))) object *PyInit__thrush(void)
{
	object *m = PyModule_Create2(&module, 3);
	if (!m)
		return 0;
	answers = &Py_Version != 0; /* since 3.11 */
	immortal = answers && (unsigned)Py_Version >= 0x030c0000;
	probes = PyType_FromSpec(&probeSpec);
	pairs = PyType_FromSpec(&pairSpec);
	return probes && pairs ? m : 0;
}

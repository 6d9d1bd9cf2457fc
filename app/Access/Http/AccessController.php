<?php

declare(strict_types=1);

namespace App\Access\Http;

use App\Access\Application\AccessAudit;
use App\Access\Application\AccessCatalogReader;
use App\Access\Application\Draft;
use App\Access\Application\PolicyStore;
use App\Access\Application\VisibilityMatrix;
use App\Access\Application\VocabularyGuard;
use App\Ledger\Models\Finding;
use App\Platform\Models\User;
use App\Platform\Support\Export;
use App\Platform\Support\SealedCache;
use Fulcrion\Core\Access\Decide\Explainer;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Subject;
use Fulcrion\Core\Access\Review\Review;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/**
 * Who sees what, and why.
 */
final readonly class AccessController
{
    private const PAGE = 40;

    public function __construct(private PolicyStore $store, private Draft $draft, private AccessCatalogReader $world)
    {
    }

    public function index(): View
    {
        $policy = $this->policy('published');
        $findings = Finding::waiting()->where('source', AccessAudit::SOURCE)->get();
        $matrix = new VisibilityMatrix($policy);
        $people = $matrix->subjects('people');
        // Everybody against every column: the same until the policy, the catalog or the day changes.
        [[$personal, $open], $grid] = SealedCache::remember(
            'guard',
            [$this->store->number(), $policy->day, $policy->catalog],
            [],
            fn (): array => [
                $matrix->personal($people),
                $this->grid($matrix, $policy, $matrix->subjects('roles'), $this->below($policy, 'estate', 2)),
            ],
        );

        return view('access.access', [
            'policy' => $policy,
            'number' => $this->store->number(),
            'latest' => $this->store->latest(),
            'findings' => $findings,
            'checks' => Review::CHECKS,
            'personal' => $personal,
            'open' => $open,
            'people' => count($people),
            'edits' => count($this->store->published()->changesTo($this->draft->document())),
            'troubles' => $this->world->troubles,
            'grid' => $grid,
        ]);
    }

    public function explain(Request $request): View
    {
        $which = $request->query('policy') === 'draft' && $request->user()?->can('guard') === true ? 'draft' : 'published';
        $policy = $this->policy($which);
        $who = trim($request->query->getString('who'));
        $who = $who === '' || Subject::isWritten($who) ? $who : Subject::person($who);
        $object = strtolower(trim($request->query->getString('object')));
        $parts = ObjectPath::parts($object);
        $column = count($parts) === 4 ? $parts[3] : null;
        $table = $policy->catalog->table($column === null ? $object : (string) ObjectPath::parent($object));
        $matrix = new VisibilityMatrix($policy);
        $known =
            $who === '' ||
            Subject::split($who)[0] === 'everyone' ||
            $policy->document->find(Subject::split($who)[0] === 'role' ? Kind::Roles : Kind::People, Subject::split($who)[1]) !== null;
        $trouble = match (true) {
            $object !== '' && ! $policy->catalog->has($object) => "There is no {$object} in the catalog.",
            ! $known => Subject::show($who).' is not in the policy, and has what everyone has.',
            default => null,
        };
        $reason =
            $who !== '' && $table !== null && $column !== null && isset($table->columns[$column])
                ? (new Explainer($policy, $policy->reader($who)))->column($table, $column)
                : null;

        return view('access.explain', [
            'policy' => $policy,
            'which' => $which,
            'who' => $who,
            'object' => $object,
            'table' => $table,
            'column' => $column,
            'trouble' => $trouble,
            'reason' => $reason,
            'matrix' => $matrix,
            'groups' => $who === '' && $table !== null && $column !== null && isset($table->columns[$column])
                    ? $matrix->ofColumn($table, $column)
                    : [],
            'tables' => $who !== '' && $reason === null
                    ? $policy->catalog->below($object === '' || ! $policy->catalog->has($object) ? ObjectPath::ESTATE : $object)
                    : [],
            'labels' => $object === '' ? [] : $policy->labelLines($object),
            'owner' => $object === '' ? null : $policy->ownerOf($object),
            'delegated' => $request->user() instanceof User && $object !== '' && $policy->catalog->has($object)
                    ? VocabularyGuard::delegated($this->store, $request->user())
                    : [],
            'subjects' => [...$matrix->subjects('people'), ...$matrix->subjects('roles')],
            'columns' => $this->columnPaths($policy),
        ]);
    }

    /**
     * @return list<string>
     */
    private function columnPaths(Policy $policy): array
    {
        $paths = [];
        foreach ($policy->catalog->tables as $table) {
            $paths[] = $table->path;
            foreach (array_keys($table->columns) as $column) {
                $paths[] = ObjectPath::child($table->path, (string) $column);
            }
        }

        return array_slice($paths, 0, 3000);
    }

    public function matrix(Request $request): View
    {
        $policy = $this->policy($request->query('policy') === 'draft' && $request->user()?->can('guard') === true ? 'draft' : 'published');
        [$by, $at, $words] = $this->asked($request, $policy);
        $matrix = new VisibilityMatrix($policy);
        $subjects = $matrix->subjects($by, $words);
        $page = max(1, (int) $request->query('page', '1'));
        $shown = array_slice($subjects, ($page - 1) * self::PAGE, self::PAGE);

        return view('access.matrix', [
            'by' => $by,
            'at' => $at,
            'words' => $words,
            'page' => $page,
            'pages' => max(1, (int) ceil(count($subjects) / self::PAGE)),
            'count' => count($subjects),
            'grid' => $this->grid($matrix, $policy, $shown, $this->columns($policy, $at)),
            'line' => ObjectPath::line($at),
        ]);
    }

    public function export(Request $request): StreamedResponse
    {
        $policy = $this->policy('published');
        [$by, $at, $words] = $this->asked($request, $policy);
        $rows = (function () use ($policy, $by, $at, $words) {
            $matrix = new VisibilityMatrix($policy);
            foreach ($matrix->subjects($by, $words) as $subject) {
                foreach ($policy->catalog->below($at) as $table) {
                    foreach ($matrix->columns($subject, $table) as $column => $access) {
                        yield [
                            'who' => $subject,
                            'object' => ObjectPath::child($table->path, (string) $column),
                            'sight' => $access->sight->value,
                            'mask' => $access->mask === null ? null : $access->mask->name,
                            'because' => implode('; ', array_map(strval(...), $access->causes)),
                        ];
                    }
                }
            }
        })();

        return Export::table('csv', 'access-matrix', $rows);
    }

    /**
     * @return array{string, string, string} by, at, words
     */
    private function asked(Request $request, Policy $policy): array
    {
        $at = strtolower($request->query->getString('at', 'estate'));

        return [
            $request->query('by') === 'roles' ? 'roles' : 'people',
            $policy->catalog->has($at) && count(ObjectPath::parts($at)) < 4 ? $at : 'estate',
            mb_substr($request->query->getString('words'), 0, 100),
        ];
    }

    /**
     * What stands across the matrix at a place: schemas of the estate or a cluster, tables of a schema, columns of a table.
     *
     * @return list<string>
     */
    private function columns(Policy $policy, string $at): array
    {
        $table = $policy->catalog->table($at);
        if ($table !== null) {
            return array_map(
                static fn (int|string $column): string => ObjectPath::child($at, (string) $column),
                array_keys($table->columns),
            );
        }

        return $this->below($policy, $at, count(ObjectPath::parts($at)) < 2 ? 2 : 3);
    }

    /**
     * @return list<string> places at a depth below
     */
    private function below(Policy $policy, string $at, int $depth): array
    {
        $places = [];
        foreach ($policy->catalog->below($at) as $table) {
            $places[ObjectPath::of(array_slice(ObjectPath::parts($table->path), 0, $depth))] = true;
        }

        return array_map(strval(...), array_keys($places));
    }

    /**
     * @param  list<string>  $subjects
     * @param  list<string>  $places
     * @return array{places: list<string>, rows: list<array{who: string, cells: list<array<string, int>>}>}
     */
    private function grid(VisibilityMatrix $matrix, Policy $policy, array $subjects, array $places): array
    {
        $tables = array_map(
            static fn (string $place): array => [
                $policy->catalog->below($place),
                count(ObjectPath::parts($place)) === 4 ? ObjectPath::parts($place)[3] : null,
            ],
            $places,
        );

        return [
            'places' => $places,
            'rows' => array_map(
                static fn (string $who): array => [
                    'who' => $who,
                    'cells' => array_map(static fn (array $one): array => $matrix->count($who, $one[0], $one[1]), $tables),
                ],
                $subjects,
            ),
        ];
    }

    private function policy(string $which): Policy
    {
        return $this->store->compile($which === 'draft' ? $this->draft->document() : $this->store->published());
    }
}

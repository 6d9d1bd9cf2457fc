<?php

declare(strict_types=1);

namespace App\Access\Http;

use App\Access\Application\AccessHistory;
use App\Access\Application\Decisions;
use App\Access\Application\Draft;
use App\Access\Application\PolicyStore;
use App\Access\Application\Trials;
use App\Access\Http\Requests\AddRemediesRequest;
use App\Estate\Connectors\QueryResult;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use Fulcrion\Core\Access\Change\AccessRemedy;
use Fulcrion\Core\Access\Change\Additions;
use Fulcrion\Core\Access\Change\AskedQuery;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Decide\Reason;
use Fulcrion\Core\Access\Decide\StatementDecision;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\Subject;
use Fulcrion\Core\Sql\Ast\Query;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Text\Parts;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/**
 * Pretending to be somebody: what they would get, why, and what would have to be added.
 */
final readonly class TryController
{
    private const AT_ONCE = 4;

    public function __construct(private PolicyStore $store, private Draft $draft, private Decisions $decisions, private Trials $trials)
    {
    }

    public function show(Request $request, #[CurrentUser] User $user, AccessHistory $history, Ledger $ledger): View
    {
        $clusters = Cluster::productionFirst()->where('connector', 'practice')->get();
        $cluster = Cluster::chosen($clusters, $request->query('cluster'));
        $which = $request->query('policy') === 'published' ? 'published' : 'draft';
        $policy = $this->store->compile($which === 'draft' ? $this->draft->document() : $this->store->published());
        $sql = trim(mb_strcut($request->query->getString('sql'), 0, 20_000));
        $schema = $request->query->getString('schema');
        $subjects = array_slice(
            array_values(
                array_unique(
                    array_map(
                        static fn (string $one): string => Subject::isWritten($one) ? $one : Subject::person($one),
                        array_filter(
                            array_map(trim(...), Parts::split('~[,\n]~', $request->query->getString('who'))),
                            static fn (string $one): bool => $one !== '',
                        ),
                    ),
                ),
            ),
            0,
            self::AT_ONCE,
        );
        $tries = [];
        if ($cluster instanceof Cluster && $sql !== '') {
            foreach ($subjects as $subject) {
                $tries[] = $this->one($policy, $subject, $cluster, $schema, $sql, $which, $user);
            }
            if ($tries !== []) {
                $ledger->record($user, 'tried a statement as somebody', implode(', ', $subjects), [
                    'policy' => $which,
                    'cluster' => $cluster->slug,
                ]);
            }
        }
        $ran = [];
        if ($subjects !== []) {
            $names = [$subjects[0] => true];
            foreach (array_keys($policy->reader($subjects[0])->roles) as $role) {
                // Teams share accounts named after them.
                $names[Subject::person((string) $role)] = true;
            }
            $ran = array_filter(
                $history->asked(),
                static fn (AskedQuery $one): bool => isset($names[$one->subject]) && $one->cluster === $cluster?->slug,
            );
            usort($ran, static fn (AskedQuery $a, AskedQuery $b): int => $b->executions <=> $a->executions);
            $ran = array_slice($ran, 0, 8);
        }

        return view('access.try', [
            'clusters' => $clusters,
            'cluster' => $cluster,
            'which' => $which,
            'sql' => $sql,
            'schema' => $schema,
            'who' => implode(
                ', ',
                array_map(static fn (string $one): string => str_starts_with($one, 'person:') ? substr($one, 7) : $one, $subjects),
            ),
            'tries' => $tries,
            'ran' => $ran,
            'subjects' => [
                ...array_map(strval(...), array_keys($policy->document->all(Kind::People))),
                ...array_map(
                    static fn (int|string $role): string => Subject::role((string) $role),
                    array_keys($policy->document->all(Kind::Roles)),
                ),
            ],
            'edits' => count($this->store->published()->changesTo($this->draft->document())),
            'number' => $this->store->number(),
        ]);
    }

    /**
     * @return array{subject: string, decision: StatementDecision, result: QueryResult|null, error: string|null, reasons: list<Reason>,
     *     remedies: list<AccessRemedy>}
     */
    private function one(
        Policy $policy,
        string $subject,
        Cluster $cluster,
        string $schema,
        string $sql,
        string $which,
        User $user,
    ): array {
        $decision = $this->decisions->decide($policy, $subject, $cluster, $schema, $sql);
        $reasons = $decision->error === null ? $this->decisions->reasons($policy, $subject, $decision) : [];
        $this->decisions->keep(
            $user,
            $subject,
            $cluster,
            'try',
            $this->store->number(),
            $which === 'draft',
            $decision,
            $reasons,
        );
        $result = $error = null;
        if ($decision->rewritten !== null && self::isQuery($sql)) {
            try {
                $result = $this->trials->run($decision, $cluster, $schema);
            } catch (SourceError $exception) {
                $error = $exception->getMessage();
            }
        }
        $remedies =
            $decision->refusals === []
                ? []
                : (new Additions(
                    $policy,
                    $subject,
                    fn (Document $document): Policy => $this->store->compile($document),
                    fn (Policy $other): StatementDecision => $this->decisions->decide($other, $subject, $cluster, $schema, $sql),
                ))->remedies();

        return [
            'subject' => $subject,
            'decision' => $decision,
            'result' => $result,
            'error' => $error,
            'reasons' => $reasons,
            'remedies' => array_slice($remedies, 0, 4),
        ];
    }

    /** Only questions are asked on somebody's behalf; a change is decided on and not made. */
    private static function isQuery(string $sql): bool
    {
        try {
            return (new Parser())->statement($sql) instanceof Query;
        } catch (SyntaxError) {
            return false;
        }
    }

    /** Takes a remedy into the draft. */
    public function add(AddRemediesRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $data = $request->validated();
        $taken = [];
        foreach ($data['items'] as $json) {
            $one = (array) json_decode($json, true);
            $kind = Kind::tryFrom((string) ($one['kind'] ?? ''));
            $item = $kind === null ? null : Item::of($kind, (string) ($one['name'] ?? ''), (array) ($one['fields'] ?? []));
            if (! ($item instanceof Item)) {
                return redirect()->to($data['back'])->with('failed', 'These additions cannot be read any more. Try again.');
            }
            $taken[] = $item;
        }
        $this->draft->take($taken, [], $user);

        return redirect()->to($data['back'])->with(
            'done',
            count($taken).
                ' '.
                (count($taken) === 1 ? 'addition is' : 'additions are').
                ' in the draft, and this is what it says now. It takes effect when the draft is published.',
        );
    }
}

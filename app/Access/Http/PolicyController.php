<?php

declare(strict_types=1);

namespace App\Access\Http;

use App\Access\Application\Draft;
use App\Access\Application\DraftEdited;
use App\Access\Application\ItemForm;
use App\Access\Application\PolicyFile;
use App\Access\Application\PolicyStore;
use App\Access\Application\Trials;
use App\Access\Application\VocabularyGuard;
use App\Access\Http\Requests\CheckConditionRequest;
use App\Access\Http\Requests\ImportPolicyRequest;
use App\Access\Http\Requests\RemovePolicyItemRequest;
use App\Access\Http\Requests\SavePolicyItemRequest;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use Fulcrion\Core\Access\Decide\Masking;
use Fulcrion\Core\Access\Policy\Condition;
use Fulcrion\Core\Access\Policy\ConditionError;
use Fulcrion\Core\Access\Policy\DocumentCheck;
use Fulcrion\Core\Access\Policy\DocumentSchema;
use Fulcrion\Core\Access\Policy\FieldType;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\ItemChange;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\PolicyProblem;
use Fulcrion\Core\Access\Policy\RowFilter;
use Fulcrion\Core\Access\Policy\Subject;
use Fulcrion\Core\Access\Policy\Vocabulary;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Text\Parts;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;

/**
 * The items a policy is made of: listed for everybody, edited in the draft by stewards.
 */
final readonly class PolicyController
{
    public function __construct(private PolicyStore $store, private Draft $draft)
    {
    }

    public function index(): View
    {
        $document = $this->draft->document();

        return view('access.policy', [
            'document' => $document,
            'published' => $this->store->published(),
            'number' => $this->store->number(),
            'problems' => $this->draft->problems(),
        ]);
    }

    public function kind(Request $request, string $kind): View
    {
        $kind = Kind::tryFrom($kind) ?? abort(404);
        $words = mb_strtolower(mb_substr($request->query->getString('words'), 0, 100));
        $document = $this->draft->document();
        $published = $this->store->published();
        $items = array_filter(
            $document->all($kind),
            static fn (Item $item): bool => $words === '' ||
                str_contains(mb_strtolower($item->name.' '.ItemChange::show($item->fields)), $words),
        );
        ksort($items, SORT_NATURAL);
        $gone = array_diff_key($published->all($kind), $document->all($kind));
        $trouble = [];
        foreach ($this->draft->problems() as $problem) {
            if ($problem->kind === $kind) {
                $trouble[$problem->name][] = $problem;
            }
        }

        return view('access.policy-kind', [
            'kind' => $kind,
            'items' => $items,
            'count' => count($document->all($kind)),
            'words' => $words,
            'published' => $published,
            'gone' => $gone,
            'trouble' => $trouble,
        ]);
    }

    public function item(Request $request, string $kind): View
    {
        $kind = Kind::tryFrom($kind) ?? abort(404);
        $name = $request->query->getString('name');
        $item = $name === '' ? null : $this->draft->document()->find($kind, $name);
        $start = [];
        foreach ($kind->fields() as $field) {
            $given = $request->query($field->name);
            $start[$field->name] =
                is_string($given) && $item === null ? $given : ItemForm::text($field, $item->fields[$field->name] ?? null);
        }

        return $this->form($kind, $name, $item, $start, $this->draft->revision($kind, $name));
    }

    /**
     * @param  array<string, mixed>  $start
     * @param  list<PolicyProblem>  $problems
     */
    private function form(
        Kind $kind,
        string $name,
        ?Item $item,
        array $start,
        int $revision,
        array $problems = [],
        ?DraftEdited $conflict = null,
    ): View {
        $policy = $this->store->compile($this->draft->document());
        $keys = [];
        foreach ($policy->document->all(Kind::Labels) as $label) {
            $keys[$label->text('key')] = true;
        }
        $attributes = [];
        foreach ($policy->document->all(Kind::People) as $person) {
            $attributes += $person->map('attributes');
        }
        $subjects = [
            Subject::EVERYONE,
            ...array_map(
                static fn (int|string $role): string => Subject::role((string) $role),
                array_keys($policy->document->all(Kind::Roles)),
            ),
            ...array_map(
                static fn (int|string $person): string => Subject::person((string) $person),
                array_keys($policy->document->all(Kind::People)),
            ),
        ];
        $paths = ['estate', ...$policy->catalog->places()];
        foreach ($policy->catalog->tables as $table) {
            $paths[] = $table->path;
            foreach (array_keys($table->columns) as $column) {
                $paths[] = ObjectPath::child($table->path, (string) $column);
            }
        }

        return view('access.item', [
            'kind' => $kind,
            'name' => $name,
            'item' => $item,
            'start' => $start,
            'revision' => $revision,
            'problems' => $problems,
            'conflict' => $conflict,
            'published' => $name === '' ? null : $this->store->published()->find($kind, $name),
            'subjects' => $subjects,
            'paths' => array_values(array_unique(array_slice($paths, 0, 4000))),
            'words' => [
                ...array_map(static fn (int|string $key): string => "labelled_below('{$key}')", array_keys($keys)),
                ...array_map(static fn (int|string $key): string => "label('{$key}') = ''", array_keys($keys)),
                ...array_map(static fn (int|string $key): string => "person('{$key}')", array_keys($attributes)),
            ],
            'document' => $policy->document,
            'uses' => $kind === Kind::Vocabulary && $name !== '' ? Vocabulary::uses($policy->document, $name) : [],
            'functions' => Condition::FUNCTIONS,
        ]);
    }

    public function save(SavePolicyItemRequest $request, #[CurrentUser] User $user, string $kind): View|RedirectResponse
    {
        $kind = Kind::tryFrom($kind) ?? abort(404);
        $data = $request->validated();
        $fields = ItemForm::read($kind, (array) ($data['fields'] ?? []));
        $was = (string) ($data['was'] ?? '');
        $name = trim((string) ($data['name'] ?? ''));
        if ($kind === Kind::Labels) {
            $name = Vocabulary::labelName(
                is_string($fields['on'] ?? null) ? strtolower($fields['on']) : '',
                is_string($fields['key'] ?? null) ? $fields['key'] : '',
            );
        }
        $item = Item::of($kind, $name, $fields);
        $problems = $item instanceof Item ? $this->refusals($item, $was, $user) : $item;
        $start = array_map(static fn (mixed $value): mixed => $value, (array) ($data['fields'] ?? []));
        if ($problems !== [] || ! ($item instanceof Item)) {
            return $this->form(
                $kind,
                $was !== '' ? $was : $name,
                $this->draft->document()->find($kind, $was),
                $start,
                (int) $data['revision'],
                $problems,
            );
        }
        try {
            if ($was !== '' && $was !== $name) {
                $this->draft->remove($kind, $was, $user, (int) $data['revision']);
                $this->draft->put($item, $user);
            } else {
                $this->draft->put($item, $user, (int) $data['revision']);
            }
        } catch (DraftEdited $conflict) {
            return $this->form($kind, $name, $item, $start, $conflict->revision, [], $conflict);
        }

        return redirect(address('policy.kind', $kind->value))->with(
            'done',
            ucfirst($kind->one())." {$name} is in the draft. It takes effect when the draft is published.",
        );
    }

    /**
     * What is wrong with this item in its place, before it goes to the draft.
     *
     * @return list<PolicyProblem>
     */
    private function refusals(Item $item, string $was, User $user): array
    {
        $document = $this->draft->document();
        $other = $document->find($item->kind, $item->name);
        if ($was !== $item->name && $other !== null) {
            return [new PolicyProblem($item->kind, $item->name, 'name', 'is the name of another one already')];
        }
        $trouble = VocabularyGuard::trouble($this->store, $document, $item, $user);
        if ($trouble !== null) {
            return [$trouble];
        }
        $policy = $this->store->compile($document->with($item));

        return array_values(
            array_filter(
                (new DocumentCheck($policy->document, $policy->catalog, $this->store->published(), $policy->hierarchies))->problems(),
                static fn (PolicyProblem $problem): bool => $problem->grave &&
                    $problem->kind === $item->kind &&
                    ($problem->name === $item->name || $problem->field === 'includes'),
            ),
        );
    }

    public function remove(RemovePolicyItemRequest $request, #[CurrentUser] User $user, string $kind): RedirectResponse
    {
        $kind = Kind::tryFrom($kind) ?? abort(404);
        $data = $request->validated();
        try {
            $this->draft->remove($kind, $data['name'], $user, (int) $data['revision']);
        } catch (DraftEdited $conflict) {
            return redirect(address('policy.kind', $kind->value))->with('failed', $conflict->getMessage());
        }

        $uses = $kind === Kind::Vocabulary ? count(Vocabulary::uses($this->draft->document(), $data['name'])) : 0;

        return redirect(address('policy.kind', $kind->value))->with(
            'done',
            ucfirst($kind->one()).
                " {$data['name']} is taken out in the draft; discard that edit to have it back.".
                ($uses > 0 ? " {$uses} labels and rules use the key; they stay, and it is a free one from then on." : ''),
        );
    }

    /** Checks a condition or filter while it is being written. */
    public function check(CheckConditionRequest $request): JsonResponse
    {
        $data = $request->validated();
        try {
            if ($data['type'] === FieldType::Condition->value) {
                $condition = Condition::parse((string) ($data['text'] ?? ''));
                $policy = $this->store->compile($this->draft->document());
                $hits = $of = 0;
                foreach ($policy->catalog->below(Parts::first(strtolower((string) ($data['scope'] ?? '')), ObjectPath::ESTATE)) as $table) {
                    $labels = $policy->labels($table);
                    foreach (array_keys($table->columns) as $column) {
                        $of++;
                        $hits +=
                            $condition->ignoresPeople() &&
                            $condition->holds($labels->columns[$column] ?? $labels->table, $labels->table, $labels->columnKeys, [], [])
                                ? 1
                                : 0;
                    }
                }

                return response()->json([
                    'ok' => true,
                    'says' => $condition->ignoresPeople()
                        ? "It holds for {$hits} of {$of} columns in its scope."
                        : 'It can be read. For which columns it holds depends on the person.',
                ]);
            }
            $filter = RowFilter::parse((string) ($data['text'] ?? ''));

            return response()->json([
                'ok' => true,
                'says' => 'It can be read. It looks at '.Parts::first(implode(', ', $filter->columns()), 'no column').'.',
            ]);
        } catch (ConditionError $error) {
            return response()->json(['ok' => false, 'says' => $error->getMessage()]);
        }
    }

    /** What a mask leaves of sampled values, beside the values themselves. */
    public function preview(Request $request, string $name, Trials $trials): View
    {
        $mask = $this->draft->document()->find(Kind::Masks, $name) ?? abort(404);
        $path = strtolower(trim($request->query->getString('object')));
        $table = $this->store
            ->compile($this->draft->document())
            ->catalog->table((string) ObjectPath::parent($path === '' ? ObjectPath::ESTATE : $path));
        $parts = ObjectPath::parts($path);
        $column = $parts[3] ?? '';
        $cluster = Cluster::query()
            ->where('slug', $parts[0] ?? '')
            ->where('connector', 'practice')
            ->first();
        if ($table === null || ! isset($table->columns[$column]) || ! ($cluster instanceof Cluster)) {
            return view('access.mask-preview', [
                'mask' => $mask,
                'path' => $path,
                'rows' => [],
                'trouble' => $path === '' ? 'Choose a column of a practice cluster.' : "There is no column {$path} on a practice cluster.",
            ]);
        }
        try {
            $masked = (new Printer())->expression((new Masking())->of($mask, $column, $table->columns[$column]));
            $result = $trials->masked($cluster, $parts, $masked);
        } catch (SourceError|ConditionError $error) {
            return view('access.mask-preview', ['mask' => $mask, 'path' => $path, 'rows' => [], 'trouble' => $error->getMessage()]);
        }
        $types = array_column($result->columns ?? [], 'type');
        $show = static fn (mixed $value, int $i): string => $value === null ? 'NULL' : $types[$i]->show($value);

        return view('access.mask-preview', [
            'mask' => $mask,
            'path' => $path,
            'trouble' => null,
            'type' => [(string) $table->columns[$column], (string) ($types[1] ?? '')],
            'rows' => array_map(static fn (array $row): array => [$show($row[0], 0), $show($row[1], 1)], $result->rows ?? []),
        ]);
    }

    public function export(Request $request, #[CurrentUser] User $user, string $file): Response
    {
        if ($file === 'schema') {
            return response(
                (string) json_encode(DocumentSchema::toArray(), JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE),
                200,
                ['Content-Type' => 'application/schema+json', 'Content-Disposition' => 'attachment; filename="policy.schema.json"'],
            );
        }
        $document =
            $request->query('of') === 'draft' && $user->can('guard') ? $this->draft->document() : $this->store->published();

        return response(PolicyFile::write($document, $file), 200, [
            'Content-Type' => $file === 'json' ? 'application/json' : 'application/yaml',
            'Content-Disposition' => "attachment; filename=\"policy.{$file}\"",
        ]);
    }

    public function import(ImportPolicyRequest $request, #[CurrentUser] User $user, Ledger $ledger): RedirectResponse
    {
        $file = upload($request);
        $document = PolicyFile::read((string) $file->get());
        if (is_array($document)) {
            return back()->withErrors([
                'file' => implode(' ', array_slice($document, 0, 6)).
                    (count($document) > 6 ? ' And '.(count($document) - 6).' more.' : '').
                    ' Nothing was taken.',
            ]);
        }
        $count = $this->draft->become($document, $user);
        $ledger->record($user, 'read a policy into the draft', $file->getClientOriginalName(), [
            'edits' => $count,
        ]);

        return redirect(address('draft.show'))->with(
            'done',
            $count === 0
                ? 'The file says what the draft says; nothing changed.'
                : "The draft is now what the file says: {$count} items differ from before. Look at it, then publish.",
        );
    }
}

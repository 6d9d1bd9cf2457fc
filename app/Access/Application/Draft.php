<?php

declare(strict_types=1);

namespace App\Access\Application;

use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use Fulcrion\Core\Access\Decide\RoleClosure;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\DocumentCheck;
use Fulcrion\Core\Access\Policy\FieldType;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\ItemChange;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\PolicyProblem;
use Fulcrion\Core\Access\Policy\Subject;
use Illuminate\Database\UniqueConstraintViolationException;
use Illuminate\Support\Facades\DB;
use Illuminate\Validation\ValidationException;

/**
 * Edits that gather before they take effect together. All stewards see the same draft; each item carries a revision, and
 * who edits an older one is told.
 */
final readonly class Draft
{
    public function __construct(private PolicyStore $store, private Ledger $ledger)
    {
    }

    public function document(): Document
    {
        $document = $this->store->published();
        foreach (DB::table('policy_drafts')->get() as $row) {
            $kind = Kind::from($row->kind);
            if ($row->fields === null) {
                $document = $document->without($kind, $row->name);

                continue;
            }
            $item = Item::of($kind, $row->name, (array) json_decode($row->fields, true));
            if ($item instanceof Item) {
                $document = $document->with($item);
            }
        }

        return $document;
    }

    public function isEmpty(): bool
    {
        return ! DB::table('policy_drafts')->exists();
    }

    /** The revision an editor must show again when it saves; 0 for an item nobody has edited in this draft. */
    public function revision(Kind $kind, string $name): int
    {
        return (int) DB::table('policy_drafts')->where('kind', $kind->value)->where('name', $name)->value('revision');
    }

    /**
     * @return array<string, array{by: string, atUs: int, revision: int}> by kind and name
     */
    public function editors(): array
    {
        $editors = [];
        foreach (DB::table('policy_drafts')->get() as $row) {
            $editors["{$row->kind} {$row->name}"] = [
                'by' => $row->edited_by,
                'atUs' => (int) $row->edited_us,
                'revision' => (int) $row->revision,
            ];
        }

        return $editors;
    }

    /**
     * Takes an item into the draft.
     *
     * @param  int|null  $revision as it was when the editor opened it; null to put it there whatever it was
     *
     * @throws DraftEdited
     */
    public function put(Item $item, User $user, ?int $revision = null): void
    {
        $this->allow([$item], [], $user);
        $this->write($item->kind, $item->name, $item->fields, $user, $revision);
    }

    /** @throws DraftEdited */
    public function remove(Kind $kind, string $name, User $user, ?int $revision = null): void
    {
        $old = $this->document()->find($kind, $name);
        $this->allow([], $old === null ? [] : [$old], $user);
        $this->write($kind, $name, null, $user, $revision);
        if ($kind === Kind::People || $kind === Kind::Roles) {
            // Who is gone must not stand in other items that are still being edited.
            $this->dropSubject(
                $kind === Kind::People ? Subject::person($name) : Subject::role($name),
                $kind === Kind::Roles ? $name : null,
                $user,
            );
        }
    }

    /**
     * Takes several items together: all of them or none.
     *
     * @param  list<Item>  $items
     * @param  list<array{Kind, string}>  $gone
     */
    public function take(array $items, array $gone, User $user): void
    {
        $this->allow($items, [], $user);
        DB::transaction(function () use ($items, $gone, $user): void {
            foreach ($items as $item) {
                $this->write($item->kind, $item->name, $item->fields, $user, null);
            }
            foreach ($gone as [$kind, $name]) {
                $this->remove($kind, $name, $user);
            }
        });
    }

    /**
     * Controlled label keys are in the hands of their definers and assigners, whichever way an edit comes in.
     *
     * @param  list<Item>  $items as they would be
     * @param  list<Item>  $gone
     *
     * @throws ValidationException
     */
    private function allow(array $items, array $gone, User $user): void
    {
        $keys = static fn (Item $item): bool => $item->kind === Kind::Labels || $item->kind === Kind::Vocabulary;
        [$items, $gone] = [array_filter($items, $keys), array_filter($gone, $keys)];
        if ($items === [] && $gone === []) {
            return;
        }
        $document = $this->document()->with(...array_values($items));
        foreach ($items as $item) {
            $this->stop(VocabularyGuard::trouble($this->store, $document, $item, $user));
        }
        foreach ($gone as $item) {
            $this->stop(VocabularyGuard::rights($this->store, $document, $item, $user));
        }
    }

    private function stop(?PolicyProblem $problem): void
    {
        if ($problem !== null) {
            throw ValidationException::withMessages(['value' => "{$problem} Nothing was changed."]);
        }
    }

    private function dropSubject(string $subject, ?string $role, User $user): void
    {
        $document = $this->document();
        foreach (Kind::cases() as $kind) {
            foreach ($document->all($kind) as $item) {
                $fields = $item->fields;
                foreach ($kind->fields() as $field) {
                    $gone =
                        $field->type === FieldType::Subjects
                            ? $subject
                            : ($field->of === Kind::Roles && $field->type === FieldType::References
                                ? $role
                                : null);
                    if ($gone !== null && in_array($gone, $item->texts($field->name), true)) {
                        $fields[$field->name] = array_values(array_diff($item->texts($field->name), [$gone]));
                    }
                }
                if ($fields === $item->fields) {
                    continue;
                }
                // An item that was for nobody else goes as well.
                $fewer = Item::of($kind, $item->name, $fields);
                $this->write($kind, $item->name, $fewer instanceof Item ? $fewer->fields : null, $user, null);
            }
        }
    }

    /**
     * @param  array<string, mixed>|null  $fields
     */
    private function write(Kind $kind, string $name, ?array $fields, User $user, ?int $revision): void
    {
        $where = DB::table('policy_drafts')->where('kind', $kind->value)->where('name', $name);
        $values = [
            'fields' => $fields === null ? null : json_encode((object) $fields, JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE),
            'edited_by' => $user->name,
            'edited_us' => Clock::microseconds(),
        ];
        $old = (clone $where)->first();
        if ($old === null) {
            try {
                DB::table('policy_drafts')->insert(['kind' => $kind->value, 'name' => $name, 'revision' => 1] + $values);
            } catch (UniqueConstraintViolationException) {
                $this->conflict($kind, $name);
            }
        } else {
            $update = $revision === null ? clone $where : (clone $where)->where('revision', $revision);
            if ($update->update($values + ['revision' => DB::raw('revision + 1')]) === 0) {
                $this->conflict($kind, $name);
            }
        }
        $this->tidy($kind, $name);
        $this->ledger->record($user, $fields === null ? 'removed in the draft' : 'edited in the draft', "{$kind->one()} {$name}", []);
    }

    /** @return never */
    private function conflict(Kind $kind, string $name): void
    {
        $now = DB::table('policy_drafts')->where('kind', $kind->value)->where('name', $name)->first();
        throw new DraftEdited(
            $now->edited_by ?? 'Somebody',
            (int) ($now->revision ?? 0),
            $now === null || $now->fields === null ? null : (array) json_decode($now->fields, true),
        );
    }

    /** An edit that leads back to what is published is none. */
    private function tidy(Kind $kind, string $name): void
    {
        $row = DB::table('policy_drafts')->where('kind', $kind->value)->where('name', $name)->first();
        $published = $this->store->published()->find($kind, $name);
        $same =
            $row !== null &&
            ($row->fields === null
                ? $published === null
                : $published !== null &&
                    ($item = Item::of($kind, $name, (array) json_decode($row->fields, true))) instanceof Item &&
                    $item->same($published));
        if ($same) {
            DB::table('policy_drafts')->where('kind', $kind->value)->where('name', $name)->delete();
        }
    }

    public function discard(?Kind $kind, ?string $name, User $user): void
    {
        $query = DB::table('policy_drafts');
        if ($kind !== null) {
            $query->where('kind', $kind->value)->where('name', $name);
        }
        $count = $query->delete();
        $this->ledger->record($user, 'discarded edits of the draft', $kind === null ? 'all' : "{$kind->one()} {$name}", [
            'items' => $count,
        ]);
    }

    /** Puts a whole policy into the place of the draft, as the edits that lead to it. */
    public function become(Document $wanted, User $user): int
    {
        $changes = $this->document()->changesTo($wanted);
        $side = static fn (string $side): array => array_values(
            array_filter(
                array_map(
                    static fn (ItemChange $change): ?Item => $side === 'after' ? $change->after : $change->before,
                    array_filter($changes, static fn (ItemChange $change): bool => $side === 'after' || $change->after === null),
                ),
            ),
        );
        $this->allow($side('after'), $side('before'), $user);
        DB::transaction(function () use ($changes, $user): void {
            foreach ($changes as $change) {
                $this->write($change->kind, $change->name, $change->after?->fields, $user, null);
            }
        });

        return count($changes);
    }

    /**
     * What keeps it from being published, and what should be looked at.
     *
     * @return list<PolicyProblem>
     */
    public function problems(): array
    {
        $policy = $this->store->compile($this->document());

        return (new DocumentCheck($policy->document, $policy->catalog, $this->store->published(), $policy->hierarchies))->problems();
    }

    /**
     * Roles handed out in this draft that carry a deny: it wins over whatever else their holders are allowed.
     *
     * @return list<string>
     */
    public function warnings(): array
    {
        $before = $this->store->published();
        $after = $this->document();
        $denies = [];
        foreach ($after->all(Kind::Grants) as $grant) {
            if ($grant->text('effect') === 'deny') {
                foreach ($grant->texts('to') as $subject) {
                    $denies[$subject][] = implode(', ', $grant->texts('privileges'))." on {$grant->text('on')} (grant {$grant->name})";
                }
            }
        }
        $warnings = [];
        foreach ($before->changesTo($after) as $change) {
            $field = match ($change->kind) {
                Kind::People => 'roles',
                Kind::Roles => 'includes',
                default => null,
            };
            foreach (
                $field === null ? [] : array_diff($change->after?->texts($field) ?? [], $change->before?->texts($field) ?? []) as $given
            ) {
                foreach (array_keys(RoleClosure::of($after->all(Kind::Roles), [$given])) as $role) {
                    foreach ($denies[Subject::role((string) $role)] ?? [] as $deny) {
                        $warnings[] =
                            ucfirst($change->kind->one()).
                            " {$change->name} gets role {$given}".
                            ($role === $given ? '' : ", which includes {$role}").
                            ", and with it a deny: {$deny}. It wins over every allow.";
                    }
                }
            }
        }

        return array_values(array_unique($warnings));
    }
}

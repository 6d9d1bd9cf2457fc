<?php

declare(strict_types=1);

namespace App\Access\Application;

use App\Platform\Models\User;
use App\Platform\Support\Role;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\DocumentCheck;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\PolicyProblem;
use Fulcrion\Core\Access\Policy\Subject;

/**
 * Keeps controlled label keys in the hands of those who may define and assign them, and their values in the vocabulary.
 */
final readonly class VocabularyGuard
{
    public static function trouble(PolicyStore $store, Document $document, Item $item, User $user): ?PolicyProblem
    {
        if ($item->kind !== Kind::Labels && $item->kind !== Kind::Vocabulary) {
            return null;
        }
        $wrong = $item->kind === Kind::Labels ? DocumentCheck::labelTrouble($document, $item) : null;

        return $wrong === null
            ? self::rights($store, $document, $item, $user)
            : new PolicyProblem($item->kind, $item->name, 'value', $wrong);
    }

    /** Whether somebody may put, change or take out a label or the entry of a key; null when they may. */
    public static function rights(PolicyStore $store, Document $document, Item $item, User $user): ?PolicyProblem
    {
        $name = $item->kind === Kind::Labels ? $item->text('key') : $item->name;
        $published = $store->published();
        $key = $published->find(Kind::Vocabulary, $name) ?? $document->find(Kind::Vocabulary, $name);
        $field = $item->kind === Kind::Labels ? 'assigners' : 'definers';
        $may = $key?->texts($field) ?? [];
        if ($may === [] || $user->role === Role::Owner) {
            return null;
        }
        $policy = $store->compile($published);
        $subjects = $policy->reader(Decisions::subjectOf($user))->subjects;

        return array_filter($may, static fn (string $subject): bool => isset($subjects[$subject])) !== []
            ? null
            : new PolicyProblem(
                $item->kind,
                $item->name,
                'key',
                ($item->kind === Kind::Labels ? 'may be assigned by ' : 'may be defined by ').
                    implode(', ', array_map(Subject::show(...), $may)).
                    ' only, and you are none of them',
            );
    }

    /**
     * Keys that are delegated to somebody: they may put them on objects without being a steward.
     *
     * @return list<Item>
     */
    public static function delegated(PolicyStore $store, User $user): array
    {
        $policy = $store->compile($store->published());
        $subjects = $policy->reader(Decisions::subjectOf($user))->subjects;

        return array_values(
            array_filter(
                $policy->document->all(Kind::Vocabulary),
                static fn (Item $key): bool => array_filter(
                    $key->texts('assigners'),
                    static fn (string $one): bool => isset($subjects[$one]),
                ) !== [],
            ),
        );
    }
}

<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Access\Policy\Condition;
use Fulcrion\Core\Access\Policy\ConditionError;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\RowFilter;

/**
 * A rule ready to be asked.
 */
final readonly class Rule
{
    /** What is asked by column; filters are asked by table. */
    public bool $byColumn;

    public bool $asksTable;

    /** Whether it makes the same of a column for everybody it is for. */
    public bool $isSame;

    /** @var list<string> attributes of a person it asks for */
    public array $attributes;

    /** The same for rules that say the same. */
    public string $digest;

    /**
     * @throws ConditionError
     */
    private function __construct(
        public Item $item,
        public string $scope,
        public string $effect,
        public ?Condition $condition,
        public ?RowFilter $filter,
        public ?Item $mask,
        /** Why it cannot be asked; then it closes its scope to those it is for. */
        public ?string $error,
    ) {
        $this->asksTable = $condition?->asksTable() ?? false;
        $this->attributes = array_values(array_unique([...$condition?->attributes() ?? [], ...$filter?->attributes() ?? []]));
        $this->isSame = $condition?->ignoresPeople() ?? false;
        $this->digest = $item->digest().($mask?->digest() ?? '');
        $this->byColumn = $effect !== 'filter' || $error !== null;
    }

    /**
     * @throws ConditionError
     */
    public static function of(Item $item, Document $document): self
    {
        $condition = $filter = $error = null;
        $effect = $item->text('effect');
        $mask = $effect === 'mask' ? $document->find(Kind::Masks, $item->text('mask')) : null;
        try {
            $condition = Condition::parse($item->text('when'));
            $filter = $effect === 'filter' ? RowFilter::parse($item->text('filter')) : null;
            if ($effect === 'mask' && $mask === null) {
                $error = $item->text('mask') === '' ? 'it names no mask' : "there is no mask {$item->text('mask')}";
            }
        } catch (ConditionError $exception) {
            $error = $exception->getMessage();
        }

        return new self($item, $item->text('scope'), $effect, $condition, $filter, $mask, $error);
    }
}

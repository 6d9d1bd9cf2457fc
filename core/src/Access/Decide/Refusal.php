<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

/**
 * One thing a statement asks for that its reader may not have.
 */
final readonly class Refusal
{
    public const PRIVILEGE = 'privilege';

    public const COLUMN = 'column';

    public const VALUE = 'value';

    public const LEVEL = 'level';

    public const MASKED_USE = 'masked use';

    public const CLOSED = 'closed';

    /**
     * @param  string  $object path of the table or column, or the name of the dimension's column
     * @param  list<Cause>  $causes
     * @param  list<string>  $values that are missing; empty for all
     */
    public function __construct(
        public string $type,
        public string $object,
        public string $message,
        public array $causes = [],
        public string $privilege = '',
        public string $dimension = '',
        public array $values = [],
        /** The owner of a view, where it is the owner who lacks the right. */
        public string $whose = '',
        /** Whether it depends on values that are not known, as in a normalised text. */
        public bool $open = false,
    ) {
    }

    public function key(): string
    {
        return "{$this->type}|{$this->object}|{$this->privilege}|{$this->dimension}|{$this->whose}|{$this->message}";
    }
}

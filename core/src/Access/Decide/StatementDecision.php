<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Access\Policy\ObjectPath;

/**
 * What came of asking whether somebody may run a statement.
 */
final readonly class StatementDecision
{
    /**
     * @param  string|null  $rewritten what is to be run instead; null when refused
     * @param  list<Refusal>  $refusals
     * @param  list<string>  $notes what is left out or trimmed, in words
     * @param  list<SeenColumn>  $columns of the result
     * @param  list<TableRead>  $reads
     * @param  string|null  $error why it cannot be decided at all
     */
    public function __construct(
        public string $sql,
        public ?string $rewritten,
        public array $refusals,
        public array $notes,
        public array $columns,
        public array $reads,
        public ?string $error = null,
        public ?int $errorAt = null,
    ) {
    }

    public function isAllowed(): bool
    {
        return $this->error === null && $this->refusals === [];
    }

    /**
     * Tables it reads in part only, or masked: what counts their rows or values tells more than the answer.
     *
     * @return list<string> schema.table
     */
    public function veiled(): array
    {
        $veiled = array_filter($this->reads, static fn (TableRead $read): bool => ! $read->isPlain());

        return array_values(
            array_unique(
                array_map(static fn (TableRead $read): string => implode('.', array_slice(ObjectPath::parts($read->path), 1)), $veiled),
            ),
        );
    }

    /** Whether some rows or values of what it names are kept from its reader, by a policy or by the text of a view. */
    public function isNarrowed(): bool
    {
        return array_filter($this->reads, static fn (TableRead $read): bool => $read->view !== null || ! $read->isPlain()) !== [];
    }

    /** Allowed, but not with all it asks for. */
    public function isTrimmed(): bool
    {
        return $this->isAllowed() && array_filter($this->reads, static fn (TableRead $read): bool => $read->left !== []) !== [];
    }

    public function isMasked(): bool
    {
        if (! $this->isAllowed()) {
            return false;
        }
        foreach ($this->reads as $read) {
            foreach (array_keys($read->uses) as $column) {
                if (($read->access->columns[$column]->sight ?? null) === Sight::Masked) {
                    return true;
                }
            }
        }

        return false;
    }

    /** unreadable, refused, masked, trimmed, masked and trimmed, or allowed. */
    public function outcome(): string
    {
        return match (true) {
            $this->error !== null => 'unreadable',
            $this->refusals !== [] => array_filter($this->refusals, static fn (Refusal $one): bool => ! $one->open) === []
                ? 'depends on values'
                : 'refused',
            $this->isMasked() => $this->isTrimmed() ? 'masked and trimmed' : 'masked',
            default => $this->isTrimmed() ? 'trimmed' : 'allowed',
        };
    }

    /** One sentence for whoever asked. */
    public function sentence(): string
    {
        if ($this->error !== null) {
            return $this->error;
        }

        $told = [];
        foreach ($this->refusals as $one) {
            // What is closed for the same reason is told in one sentence.
            $told[
                $one->object === ''
                    ? $one->message
                    : (string) preg_replace('~'.preg_quote($one->object, '~').'~', '|', $one->message, 1)
            ][] = $one;
        }

        return implode(' ', array_map(self::together(...), array_values($told)));
    }

    /**
     * @param  non-empty-list<Refusal>  $alike whose messages differ in the object only
     */
    private static function together(array $alike): string
    {
        $objects = array_map(static fn (Refusal $one): string => $one->object, $alike);
        $last = array_pop($objects);
        if ($objects === [] || $alike[0]->type !== Refusal::COLUMN) {
            return implode(' ', array_unique(array_map(static fn (Refusal $one): string => $one->message, $alike)));
        }
        // The last one's own words, with the others in front of it.
        $message = $alike[count($alike) - 1]->message;
        $at = (int) strpos($message, $last);
        $after = strtr((string) preg_replace('~^ is ~', ' are ', substr($message, $at + strlen($last))), [
            ' hides it' => ' hides them',
            ' denies it' => ' denies them',
        ]);

        return substr($message, 0, $at).implode(', ', $objects)." and {$last}{$after}";
    }
}

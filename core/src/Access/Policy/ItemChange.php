<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

/**
 * What became of one item from one policy to another.
 */
final readonly class ItemChange
{
    public function __construct(public Kind $kind, public string $name, public ?Item $before, public ?Item $after)
    {
    }

    public function verb(): string
    {
        return $this->before === null ? 'added' : ($this->after === null ? 'removed' : 'changed');
    }

    /**
     * @return array<string, array{string, string}> field => before and after, in words
     */
    public function fields(): array
    {
        $fields = [];
        foreach ($this->kind->fields() as $field) {
            $before = self::show($this->before->fields[$field->name] ?? null);
            $after = self::show($this->after->fields[$field->name] ?? null);
            if ($before !== $after) {
                $fields[$field->name] = [$before, $after];
            }
        }

        return $fields;
    }

    public static function show(mixed $value): string
    {
        if (is_array($value)) {
            $parts = [];
            foreach ($value as $name => $one) {
                $parts[] = is_string($name) ? $name.' = '.self::show($one) : self::show($one);
            }

            return implode(', ', $parts);
        }

        return is_bool($value) ? ($value ? 'yes' : 'no') : (is_scalar($value) ? (string) $value : '');
    }
}

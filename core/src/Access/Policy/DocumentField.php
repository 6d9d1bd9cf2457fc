<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

/**
 * One field an item of a policy has.
 */
final readonly class DocumentField
{
    /**
     * @param  list<string>  $choices
     */
    public function __construct(
        public string $name,
        public FieldType $type,
        public string $help,
        public bool $required = false,
        public array $choices = [],
        /** The kind of item it names. */
        public ?Kind $of = null,
    ) {
    }

    public function isList(): bool
    {
        return in_array(
            $this->type,
            [FieldType::Choices, FieldType::Texts, FieldType::Subjects, FieldType::Paths, FieldType::References, FieldType::Ranges],
            true,
        );
    }

    /**
     * What is wrong with a value, in words; null when nothing is. Whether what it names is there is not asked.
     */
    public function trouble(mixed $value): ?string
    {
        if ($this->isList()) {
            if (! is_array($value) || ! array_is_list($value)) {
                return 'must be a list';
            }
            foreach ($value as $one) {
                $trouble =
                    is_string($one) || is_int($one) || is_float($one) ? $this->troubleOfOne((string) $one) : 'must be a list of texts';
                if ($trouble !== null) {
                    return $trouble;
                }
            }

            return $this->required && $value === [] ? 'needs at least one entry' : null;
        }
        if ($this->type === FieldType::Map) {
            if (! is_array($value)) {
                return 'must be a map of names to values';
            }
            foreach ($value as $name => $one) {
                $inner = is_array($one) ? $one : [$one];
                foreach ($inner as $leaf) {
                    if (! is_scalar($leaf)) {
                        return "must give {$name} a text, a number, true or false, or a list of those";
                    }
                }
            }

            return null;
        }
        if ($this->type === FieldType::Flag) {
            return is_bool($value) ? null : 'must be true or false';
        }
        if ($this->type === FieldType::Count) {
            return is_int($value) && $value >= 0 ? null : 'must be a whole number of 0 or more';
        }
        if (! is_string($value)) {
            return 'must be a text';
        }

        return $this->required && trim($value) === '' ? 'must not be empty' : ($value === '' ? null : $this->troubleOfOne($value));
    }

    private function troubleOfOne(string $value): ?string
    {
        return match ($this->type) {
            FieldType::Choice, FieldType::Choices => in_array($value, $this->choices, true)
                ? null
                : "has \"{$value}\", which is none of ".implode(', ', $this->choices),
            FieldType::Subject, FieldType::Subjects => Subject::isWritten($value)
                ? null
                : "has \"{$value}\"; write everyone, role:NAME or person:NAME",
            FieldType::Path, FieldType::Paths => ObjectPath::isWritten($value)
                ? null
                : "has \"{$value}\"; write estate, or cluster.schema.table.column as far down as is meant",
            FieldType::Day => preg_match('~^\d{4}-\d{2}-\d{2}$~', $value) === 1 &&
            checkdate((int) substr($value, 5, 2), (int) substr($value, 8, 2), (int) substr($value, 0, 4))
                ? null
                : "has \"{$value}\", which is no day; write it as 2026-11-30",
            FieldType::Ranges => preg_match('~^.*\.\..*$~', $value) === 1 && $value !== '..'
                ? null
                : "has \"{$value}\"; write a range as low..high, either end may be left out",
            default => null,
        };
    }
}

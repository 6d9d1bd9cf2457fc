<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

/**
 * One entry of a policy, checked: only fields of its kind, of their types, without the empty ones.
 */
final readonly class Item
{
    /**
     * @param  array<string, mixed>  $fields in the order of the kind's fields
     */
    private function __construct(public Kind $kind, public string $name, public array $fields)
    {
    }

    /**
     * @param  array<mixed>  $values
     * @return self|list<PolicyProblem>
     */
    public static function of(Kind $kind, string $name, array $values): self|array
    {
        $problems = [];
        $fields = [];
        $known = $kind->fields();
        foreach (array_keys($values) as $given) {
            if ($kind->field((string) $given) === null) {
                $names = array_map(static fn (DocumentField $f): string => $f->name, $known);
                $problems[] = new PolicyProblem(
                    $kind,
                    $name,
                    (string) $given,
                    "is no field of a {$kind->one()}; there are ".implode(', ', $names),
                );
            }
        }
        if (trim($name) === '' || strlen($name) > 190) {
            $problems[] = new PolicyProblem($kind, $name, '', 'needs a name of at most 190 bytes');
        }
        foreach ($known as $field) {
            $value = $values[$field->name] ?? null;
            if (is_int($value) && in_array($field->type, [FieldType::Text, FieldType::LongText], true)) {
                $value = (string) $value;
            }
            if ($value === null || $value === '' || $value === []) {
                if ($field->required) {
                    $problems[] = new PolicyProblem($kind, $name, $field->name, "is missing: {$field->help}");
                }

                continue;
            }
            $trouble = $field->trouble($value);
            if ($trouble !== null) {
                $problems[] = new PolicyProblem($kind, $name, $field->name, $trouble);

                continue;
            }
            if ($value === false && $field->type === FieldType::Flag) {
                continue;
            }
            $fields[$field->name] = self::clean($field, $value);
        }

        if ($kind === Kind::Dimensions) {
            $fields['columns'] = self::carriers($fields['columns'] ?? []);
        }
        if ($problems === [] && $kind->isNamedByPath()) {
            $name = ObjectPath::isWritten($name) ? ObjectPath::normal($name) : $name;
        }

        return $problems === [] ? new self($kind, $name, $fields) : $problems;
    }

    /**
     * @return array<string, mixed> columns by their paths
     */
    private static function carriers(mixed $columns): array
    {
        $normal = [];
        foreach (is_array($columns) ? $columns : [] as $path => $by) {
            $normal[ObjectPath::isWritten((string) $path) ? ObjectPath::normal((string) $path) : (string) $path] = $by;
        }
        ksort($normal);

        return $normal;
    }

    private static function clean(DocumentField $field, mixed $value): mixed
    {
        if ($field->isList() && is_array($value)) {
            $list = array_map(static fn (mixed $one): string => is_scalar($one) ? (string) $one : '', array_values($value));
            if (in_array($field->type, [FieldType::Paths], true)) {
                $list = array_map(ObjectPath::normal(...), $list);
            }

            return array_values(array_unique($list));
        }
        if ($field->type === FieldType::Path && is_string($value)) {
            return ObjectPath::normal($value);
        }
        if ($field->type === FieldType::Map && is_array($value)) {
            ksort($value);

            return $value;
        }

        return is_string($value) ? trim($value) : $value;
    }

    public function text(string $field, string $default = ''): string
    {
        $value = $this->fields[$field] ?? $default;

        return is_string($value) ? $value : $default;
    }

    /**
     * @return list<string>
     */
    public function texts(string $field): array
    {
        $value = $this->fields[$field] ?? [];

        return is_array($value) ? array_values(array_filter($value, is_string(...))) : [];
    }

    public function flag(string $field): bool
    {
        return ($this->fields[$field] ?? false) === true;
    }

    public function count(string $field): int
    {
        $value = $this->fields[$field] ?? 0;

        return is_int($value) ? $value : 0;
    }

    /**
     * @return array<string, bool|int|float|string|list<bool|int|float|string>>
     */
    public function map(string $field): array
    {
        $value = $this->fields[$field] ?? [];
        $map = [];
        foreach (is_array($value) ? $value : [] as $name => $one) {
            if (is_array($one)) {
                $map[(string) $name] = array_values(array_filter($one, is_scalar(...)));
            } elseif (is_scalar($one)) {
                $map[(string) $name] = $one;
            }
        }

        return $map;
    }

    /** Whether it holds on a day, by its field "until". */
    public function holds(string $day): bool
    {
        $until = $this->text('until');

        return $until === '' || $day <= $until;
    }

    public function same(self $other): bool
    {
        return $this->kind === $other->kind && $this->fields === $other->fields;
    }

    /** What identifies its contents. */
    public function digest(): string
    {
        return hash('xxh128', (string) json_encode($this->fields, JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE));
    }
}

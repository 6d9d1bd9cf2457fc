<?php

declare(strict_types=1);

namespace App\Access\Application;

use Fulcrion\Core\Access\Policy\DocumentField;
use Fulcrion\Core\Access\Policy\FieldType;
use Fulcrion\Core\Access\Policy\ItemChange;
use Fulcrion\Core\Access\Policy\Kind;

/**
 * Fields of an item as a form has them: lists with an entry a line, maps as name = value.
 */
final readonly class ItemForm
{
    /**
     * @param  array<string, mixed>  $input
     * @return array<string, mixed> fields
     */
    public static function read(Kind $kind, array $input): array
    {
        $fields = [];
        foreach ($kind->fields() as $field) {
            $value = $input[$field->name] ?? null;
            if ($field->type === FieldType::Choices) {
                $fields[$field->name] = array_values(array_filter((array) $value, is_string(...)));

                continue;
            }
            $text = is_scalar($value) ? trim((string) $value) : '';
            $fields[$field->name] = match (true) {
                $field->type === FieldType::Flag => $text !== '' && $text !== '0',
                $field->type === FieldType::Count => ctype_digit($text) ? (int) $text : ($text === '' ? null : $text),
                $field->type === FieldType::Map => self::map($text),
                $field->isList() => self::lines($text),
                default => $text,
            };
        }

        return $fields;
    }

    /**
     * @return list<string>
     */
    private static function lines(string $text): array
    {
        return array_values(array_filter(array_map(trim(...), explode("\n", $text)), static fn (string $line): bool => $line !== ''));
    }

    /**
     * @return array<string, bool|int|float|string|list<string>>
     */
    private static function map(string $text): array
    {
        $map = [];
        foreach (self::lines($text) as $line) {
            $at = strpos($line, '=');
            $name = trim($at === false ? $line : substr($line, 0, $at));
            $value = trim($at === false ? '' : substr($line, $at + 1));
            $map[$name] = match (true) {
                str_contains($value, ',') => array_map(trim(...), explode(',', $value)),
                preg_match('~^-?\d{1,15}$~', $value) === 1 => (int) $value,
                $value === 'yes', $value === 'true' => true,
                $value === 'no', $value === 'false' => false,
                default => $value,
            };
        }

        return $map;
    }

    public static function text(DocumentField $field, mixed $value): string
    {
        if ($field->type === FieldType::Map && is_array($value)) {
            return implode(
                "\n",
                array_map(
                    static fn (int|string $name, mixed $one): string => "{$name} = ".ItemChange::show($one),
                    array_keys($value),
                    $value,
                ),
            );
        }
        if ($field->isList() && is_array($value)) {
            return implode("\n", array_map(static fn (mixed $one): string => is_scalar($one) ? (string) $one : '', $value));
        }

        return is_bool($value) ? ($value ? '1' : '') : (is_scalar($value) ? (string) $value : '');
    }
}

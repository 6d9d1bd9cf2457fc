<?php

declare(strict_types=1);

namespace Fulcrion\Core\Settings;

/**
 * How the hosts of a cluster should be set (docs/formats/settings.md).
 */
final readonly class SettingsProfile
{
    private const FIELDS = ['is', 'atLeast', 'atMost', 'has', 'reason', 'rule'];

    private const MOST = 1_000;

    private const LONGEST = 500;

    /**
     * @param  list<DesiredSetting>  $settings
     */
    public function __construct(public string $name, public array $settings)
    {
    }

    /**
     * @param  array<mixed>  $data what stands in the file
     * @return self|list<SettingProblem>
     */
    public static function read(array $data): self|array
    {
        $problems = [];
        foreach (array_diff(array_keys($data), ['name', 'settings']) as $unknown) {
            $problems[] = new SettingProblem((string) $unknown, '', 'is not known here: a profile has a name and settings');
        }
        $name = $data['name'] ?? null;
        if (! is_string($name) || trim($name) === '' || mb_strlen($name) > self::LONGEST) {
            $problems[] = new SettingProblem('name', '', 'has to be a text of at most '.self::LONGEST.' characters');
        }
        $settings = $data['settings'] ?? null;
        if (! is_array($settings) || $settings === [] || array_is_list($settings)) {
            return [...$problems, new SettingProblem('settings', '', 'has to be a map of settings by their names')];
        }
        if (count($settings) > self::MOST) {
            return [...$problems, new SettingProblem('settings', '', 'has more than '.self::MOST.' entries')];
        }
        $desired = [];
        foreach ($settings as $key => $fields) {
            $one = self::setting((string) $key, $fields);
            if ($one instanceof DesiredSetting) {
                $desired[] = $one;
            } else {
                array_push($problems, ...$one);
            }
        }

        return $problems === [] && is_string($name) ? new self(trim($name), $desired) : $problems;
    }

    /** What is wanted of a setting; the first entry that covers it counts. */
    public function of(string $name): ?DesiredSetting
    {
        foreach ($this->settings as $one) {
            if ($one->covers($name)) {
                return $one;
            }
        }

        return null;
    }

    /**
     * @return DesiredSetting|non-empty-list<SettingProblem>
     */
    private static function setting(string $name, mixed $fields): DesiredSetting|array
    {
        if (! is_array($fields)) {
            return [new SettingProblem($name, '', 'has to be a map with is, has, atLeast or atMost, and a reason')];
        }
        $problems = [];
        foreach (array_diff(array_keys($fields), self::FIELDS) as $unknown) {
            $problems[] = new SettingProblem($name, (string) $unknown, 'is not known: use '.implode(', ', self::FIELDS));
        }
        $is = self::words($fields['is'] ?? null);
        $has = self::words($fields['has'] ?? null);
        foreach (['is' => $is, 'has' => $has] as $field => $words) {
            if ($words === null || (isset($fields[$field]) && $words === [])) {
                $problems[] = new SettingProblem($name, $field, 'has to be a value or a list of values');
            }
        }
        $bounds = [];
        foreach (['atLeast', 'atMost'] as $field) {
            $bound = $fields[$field] ?? null;
            if ($bound !== null && ! is_int($bound) && ! is_float($bound)) {
                $problems[] = new SettingProblem($name, $field, 'has to be a number');
            }
            $bounds[$field] = is_int($bound) || is_float($bound) ? (float) $bound : null;
        }
        if (array_intersect(['is', 'has', 'atLeast', 'atMost'], array_keys($fields)) === []) {
            $problems[] = new SettingProblem($name, '', 'says nothing that is wanted: add is, has, atLeast or atMost');
        } elseif ($bounds['atLeast'] !== null && $bounds['atMost'] !== null && $bounds['atLeast'] > $bounds['atMost']) {
            $problems[] = new SettingProblem($name, 'atLeast', 'is above atMost');
        }
        $texts = [];
        foreach (['reason', 'rule'] as $field) {
            $text = $fields[$field] ?? '';
            if (! is_string($text) || mb_strlen($text) > self::LONGEST || ($field === 'reason' && trim($text) === '')) {
                $problems[] = new SettingProblem($name, $field, 'has to be a text of at most '.self::LONGEST.' characters');
            }
            $texts[$field] = is_string($text) ? trim($text) : '';
        }

        return $problems === []
            ? new DesiredSetting($name, $is ?? [], $bounds['atLeast'], $bounds['atMost'], $has ?? [], $texts['reason'], $texts['rule'])
            : $problems;
    }

    /**
     * @return list<string>|null null where it is neither a value nor a list of such
     */
    private static function words(mixed $value): ?array
    {
        $words = [];
        foreach (is_array($value) ? array_values($value) : ($value === null ? [] : [$value]) as $one) {
            // YAML reads on, off, yes and no as words here, true and false as such.
            if (is_bool($one)) {
                $one = $one ? 'true' : 'false';
            }
            if (! is_scalar($one) || (string) $one === '' || mb_strlen((string) $one) > self::LONGEST) {
                return null;
            }
            $words[] = (string) $one;
        }

        return $words;
    }
}

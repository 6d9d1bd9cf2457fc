<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Review;

/**
 * Tells from the name of a column and a sample of its values what personal thing it may hold.
 */
final readonly class Detector
{
    /** Share of the values that must look so, unless the name says it as well. */
    private const RATE = 0.8;

    private const RATE_WITH_NAME = 0.4;

    private const LEAST = 5;

    private const FIRST_NAMES = [
        'ada',
        'anna',
        'ben',
        'bren',
        'carl',
        'cole',
        'dara',
        'elin',
        'emma',
        'finn',
        'gwen',
        'hale',
        'hugo',
        'ida',
        'ines',
        'jonas',
        'jory',
        'karl',
        'lena',
        'lucas',
        'maria',
        'mia',
        'noah',
        'olivia',
        'paul',
        'rosa',
        'sara',
        'tom',
        'vera',
        'will',
    ];

    private const STREETS = 'street|road|lane|avenue|way|close|square|drive|court|hill|strasse|straße|weg|platz|rue|calle|via';

    /** kind of thing => key, words of names of columns */
    public const KINDS = [
        'e-mail' => ['personal/email', ['email', 'e_mail', 'mail']],
        'phone' => ['personal/phone', ['phone', 'tel', 'mobile', 'fax']],
        'national id' => ['personal/national_id', ['national_id', 'ssn', 'tax_id', 'passport', 'insurance_no']],
        'bank account' => ['personal/bank', ['iban', 'bank_account', 'account_no', 'card_no']],
        'birth date' => ['personal/birth_date', ['birth', 'born', 'dob']],
        'address' => ['personal/address', ['address', 'street', 'postcode', 'zip']],
        'name' => ['personal/name', ['name', 'surname', 'first_name', 'last_name', 'full_name', 'contact_person']],
    ];

    /**
     * @param  string  $column name
     * @param  list<string|null>  $values sampled, as text
     * @param  string  $type of the column
     * @param  string  $today as 2026-11-30
     */
    public static function look(string $column, array $values, string $type, string $today): ?Detection
    {
        $given = array_values(array_filter($values, static fn (?string $value): bool => $value !== null && trim($value) !== ''));
        $best = null;
        foreach (self::KINDS as $kind => [$key, $words]) {
            $named =
                array_filter($words, static fn (string $word): bool => preg_match('~(?:^|_)'.$word.'(?:$|_|s$)~i', $column) === 1) !==
                [];
            $hits = array_values(array_filter($given, static fn (string $value): bool =>
                self::looks($kind, $value, $type, $today, $named)));
            $rate = $given === [] ? 0.0 : count($hits) / count($given);
            $enough = count($given) >= self::LEAST && $rate >= ($named ? self::RATE_WITH_NAME : self::RATE);
            // Digits alone are many things; only a name makes them an identity.
            if (! $enough || (! $named && in_array($kind, ['national id', 'birth date'], true))) {
                continue;
            }
            $score = $rate + ($named ? 1 : 0);
            if ($best === null || $score > $best[0]) {
                $best = [
                    $score,
                    new Detection(
                        $kind,
                        $key,
                        $rate,
                        count($given),
                        $named,
                        array_map(self::blur(...), array_slice(array_values(array_unique($hits)), 0, 3)),
                    ),
                ];
            }
        }

        return $best[1] ?? null;
    }

    private static function looks(string $kind, string $value, string $type, string $today, bool $named): bool
    {
        return match ($kind) {
            'e-mail' => filter_var($value, FILTER_VALIDATE_EMAIL) !== false,
            'phone' => $type === 'text' &&
                preg_match('~^\+?[\d ()/.-]{7,20}$~', $value) === 1 &&
                preg_match('~[ ()/+-]~', $value) === 1 &&
                ($digits = strlen((string) preg_replace('~\D~', '', $value))) >= 7 &&
                $digits <= 15 &&
                preg_match('~^\d{4}-\d\d-\d\d~', $value) !== 1,
            'national id' => preg_match('~^[A-Z]{0,2}[\d -]{6,14}[A-Z]?$~', $value) === 1,
            'bank account' => self::isAccount($value) || ($named && preg_match('~^[\d ]{8,24}$~', $value) === 1),
            'birth date' => preg_match('~^(\d{4})-\d\d-\d\d~', $value, $m) === 1 &&
                (int) $m[1] > (int) $today - 110 &&
                substr($value, 0, 10) <= $today,
            'address' => preg_match('~\b\d+[a-z]?\b~i', $value) === 1 && preg_match('~\b(?:'.self::STREETS.')\b~iu', $value) === 1,
            'name' => preg_match('~^\p{Lu}[\p{L}\'-]+(?: \p{Lu}[\p{L}\'.-]*){1,3}$~u', $value) === 1 &&
                ($named ? self::isPerson($value) : in_array(mb_strtolower((string) strtok($value, ' ')), self::FIRST_NAMES, true)),
            default => false,
        };
    }

    /** A thing can have a name of two words; a person's first is one of those that are given. */
    private static function isPerson(string $value): bool
    {
        return in_array(mb_strtolower((string) strtok($value, ' ')), self::FIRST_NAMES, true);
    }

    /** International account numbers by ISO 13616 (remainder 1 by 97), card-like numbers by ISO/IEC 7812 (Luhn). */
    public static function isAccount(string $value): bool
    {
        $text = strtoupper((string) preg_replace('~[\s-]~', '', $value));
        if (preg_match('~^[A-Z]{2}\d{2}[A-Z0-9]{11,30}$~', $text) === 1) {
            $rest = 0;
            foreach (str_split(substr($text, 4).substr($text, 0, 4)) as $character) {
                foreach (str_split(ctype_digit($character) ? $character : (string) (ord($character) - 55)) as $digit) {
                    $rest = ($rest * 10 + (int) $digit) % 97;
                }
            }

            return $rest === 1;
        }
        if (preg_match('~^\d{13,19}$~', $text) !== 1) {
            return false;
        }
        $sum = 0;
        foreach (array_reverse(str_split($text)) as $i => $digit) {
            $double = (int) $digit * (($i % 2) + 1);
            $sum += $double > 9 ? $double - 9 : $double;
        }

        return $sum % 10 === 0;
    }

    /** An example that shows the shape and not the value: letters and digits are replaced, some first ones stay. */
    private static function blur(string $value): string
    {
        return (string) preg_replace(['~(?<=.)\p{L}~u', '~(?<=.)\d~u'], ['x', '0'], mb_substr($value, 0, 40));
    }
}

<?php

declare(strict_types=1);

namespace App\Limits\Http\Requests;

use App\Limits\Application\LimitNames;
use Closure;
use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Limits\ScopeKind;
use Illuminate\Validation\Rule;

/**
 * What a form sends to LimitBookController::store().
 */
final class SetLimitRequest extends ChangeLimitRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'measure' => ['required', Rule::enum(LimitMeasure::class)],
            'of' => ['required', 'string', 'max:210', function (string $field, mixed $value, Closure $fail): void {
                [$kind, $name] = self::scope((string) $value);
                if ($kind === null) {
                    $fail('Say a team, person, application, queue or cluster and its name, as team forecast_lab.');
                } elseif (! in_array($name, app(LimitNames::class)->of($kind), true)) {
                    $fail("No {$kind->value} is known by the name {$name}. Choose one of those that are offered.");
                }
            }],
            'period' => ['required', Rule::enum(LimitPeriod::class), function (string $field, mixed $value, Closure $fail): void {
                $measure = $this->measure();
                if ($value === LimitPeriod::Statement->value && $measure !== null && ! $measure->isOfOne()) {
                    $fail('A single statement is limited by bytes scanned or by time in flight.');
                }
            }],
            ...parent::rules(),
        ];
    }

    /**
     * @return array{ScopeKind|null, string}
     */
    public static function scope(string $text): array
    {
        [$kind, $name] = [...explode(' ', trim($text), 2), ''];

        return [trim($name) === '' ? null : ScopeKind::tryFrom(strtolower($kind)), trim($name)];
    }

    protected function measure(): ?LimitMeasure
    {
        return LimitMeasure::tryFrom((string) $this->string('measure'));
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'measure.*' => 'Choose what is counted.',
            'of.required' => 'Say whose: a team, person, application, queue or cluster and its name.',
            'of.max' => 'A name has up to 190 letters.',
            'period.required' => 'Choose the time in which it is counted.',
            'period.enum' => 'Choose the time in which it is counted.',
            ...parent::messages(),
        ];
    }
}

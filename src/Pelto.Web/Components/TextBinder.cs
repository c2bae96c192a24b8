using System.Reflection;
using Microsoft.AspNetCore.Mvc.ModelBinding;
using Microsoft.AspNetCore.Mvc.ModelBinding.Metadata;

namespace Pelto.Web.Components;

/// <summary>An empty input is the empty text where a property takes no null; the framework would make it null all the same.</summary>
internal sealed class TextBinder : IModelBinder, IModelBinderProvider
{
    /// <inheritdoc/>
    public IModelBinder? GetBinder(ModelBinderProviderContext context) =>
        context.Metadata is { MetadataKind: ModelMetadataKind.Property, ContainerType: { } holder, PropertyName: { } name }
        && context.Metadata.ModelType == typeof(string)
        && holder.GetProperty(name) is { } property
        && new NullabilityInfoContext().Create(property).WriteState == NullabilityState.NotNull
            ? this
            : null;

    /// <inheritdoc/>
    public Task BindModelAsync(ModelBindingContext bindingContext)
    {
        var sent = bindingContext.ValueProvider.GetValue(bindingContext.ModelName);
        if (sent == ValueProviderResult.None)
            return Task.CompletedTask;
        bindingContext.ModelState.SetModelValue(bindingContext.ModelName, sent);
        bindingContext.Result = ModelBindingResult.Success(string.IsNullOrWhiteSpace(sent.FirstValue) ? "" : sent.FirstValue);
        return Task.CompletedTask;
    }
}

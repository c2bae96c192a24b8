using AngleSharp.Html.Parser;

namespace Pelto.Core.Tests.Outside;

public sealed class HtmlTests
{
    private static readonly string[] Allowed =
    [
        "P",
        "BR",
        "B",
        "STRONG",
        "I",
        "EM",
        "U",
        "S",
        "H3",
        "H4",
        "UL",
        "OL",
        "LI",
        "BLOCKQUOTE",
        "A",
        "CODE",
        "PRE",
        "SUB",
        "SUP",
    ];

    // From the OWASP cross-site scripting filter evasion cheat sheet, each kind of trick once; from memory.
    public static TheoryData<string> Vectors { get; } =
    [
        "<SCRIPT SRC=https://example.org/xss.js></SCRIPT>",
        "javascript:/*--></title></style></textarea></script></xmp><svg/onload='+/\"`/+/onmouseover=1/+/[*/[]/+alert(42);//'>",
        "<IMG SRC=\"javascript:alert('XSS');\">",
        "<IMG SRC=javascript:alert('XSS')>",
        "<IMG SRC=JaVaScRiPt:alert('XSS')>",
        "<IMG SRC=`javascript:alert(\"RSnake says, 'XSS'\")`>",
        "\\<a onmouseover=\"alert(document.cookie)\"\\>xxs link\\</a\\>",
        "<a onmouseover=alert(document.cookie)>xxs link</a>",
        "<IMG \"\"\"><SCRIPT>alert(\"XSS\")</SCRIPT>\"\\>",
        "<a href=\"javascript:alert(String.fromCharCode(88,83,83))\">Click Me!</a>",
        "<IMG SRC=# onmouseover=\"alert('xxs')\">",
        "<IMG SRC= onmouseover=\"alert('xxs')\">",
        "<IMG onmouseover=\"alert('xxs')\">",
        "<IMG SRC=/ onerror=\"alert(String.fromCharCode(88,83,83))\"></img>",
        "<a href=\"&#106;&#97;&#118;&#97;&#115;&#99;&#114;&#105;&#112;&#116;&#58;&#97;&#108;&#101;&#114;&#116;&#40;&#39;&#88;&#83;&#83;&#39;&#41;\">Click Me!</a>",
        "<a href=\"&#0000106&#0000097&#0000118&#0000097&#0000115&#0000099&#0000114&#0000105&#0000112&#0000116&#0000058&#0000097&#0000108&#0000101&#0000114&#0000116&#0000040&#0000039&#0000088&#0000083&#0000083&#0000039&#0000041\">Click Me</a>",
        "<a href=\"&#x6A&#x61&#x76&#x61&#x73&#x63&#x72&#x69&#x70&#x74&#x3A&#x61&#x6C&#x65&#x72&#x74&#x28&#x27&#x58&#x53&#x53&#x27&#x29\">Click Me</a>",
        "<a href=\"jav\tascript:alert('XSS');\">Click Me</a>",
        "<a href=\"jav&#x09;ascript:alert('XSS');\">Click Me</a>",
        "<a href=\"jav&#x0A;ascript:alert('XSS');\">Click Me</a>",
        "<a href=\"jav&#x0D;ascript:alert('XSS');\">Click Me</a>",
        "<a href=\" &#14;  javascript:alert('XSS');\">Click Me</a>",
        "<SCRIPT/XSS SRC=\"http://example.org/xss.js\"></SCRIPT>",
        "<BODY onload!#$%&()*~+-_.,:;?@[/|\\]^`=alert(\"XSS\")>",
        "<SCRIPT/SRC=\"http://example.org/xss.js\"></SCRIPT>",
        "<<SCRIPT>alert(\"XSS\");//\\<</SCRIPT>",
        "<SCRIPT SRC=http://example.org/xss.js?< B >",
        "<IMG SRC=\"`<javascript:alert>`('XSS')\"",
        "</TITLE><SCRIPT>alert(\"XSS\");</SCRIPT>",
        "<INPUT TYPE=\"IMAGE\" SRC=\"javascript:alert('XSS');\">",
        "<BODY BACKGROUND=\"javascript:alert('XSS')\">",
        "<IMG DYNSRC=\"javascript:alert('XSS')\">",
        "<STYLE>li {list-style-image: url(\"javascript:alert('XSS')\");}</STYLE><UL><LI>XSS</br>",
        "<IMG SRC='vbscript:msgbox(\"XSS\")'>",
        "<svg/onload=alert('XSS')>",
        "<BODY ONLOAD=alert('XSS')>",
        "<BGSOUND SRC=\"javascript:alert('XSS');\">",
        "<BR SIZE=\"&{alert('XSS')}\">",
        "<LINK REL=\"stylesheet\" HREF=\"javascript:alert('XSS');\">",
        "<STYLE>@import'http://example.org/xss.css';</STYLE>",
        "<META HTTP-EQUIV=\"Link\" Content=\"<http://example.org/xss.css>; REL=stylesheet\">",
        "<IMG STYLE=\"xss:expr/*XSS*/ession(alert('XSS'))\">",
        "<META HTTP-EQUIV=\"refresh\" CONTENT=\"0;url=javascript:alert('XSS');\">",
        "<META HTTP-EQUIV=\"refresh\" CONTENT=\"0;url=data:text/html base64,PHNjcmlwdD5hbGVydCgnWFNTJyk8L3NjcmlwdD4K\">",
        "<IFRAME SRC=\"javascript:alert('XSS');\"></IFRAME>",
        "<IFRAME SRC=# onmouseover=\"alert(document.cookie)\"></IFRAME>",
        "<FRAMESET><FRAME SRC=\"javascript:alert('XSS');\"></FRAMESET>",
        "<TABLE BACKGROUND=\"javascript:alert('XSS')\">",
        "<DIV STYLE=\"background-image: url(javascript:alert('XSS'))\">",
        "<BASE HREF=\"javascript:alert('XSS');//\">",
        "<OBJECT TYPE=\"text/x-scriptlet\" DATA=\"http://example.org/scriptlet.html\"></OBJECT>",
        "<EMBED SRC=\"data:image/svg+xml;base64,PHN2Zz4=\" type=\"image/svg+xml\" AllowScriptAccess=\"always\"></EMBED>",
        "<!--[if gte IE 4]><SCRIPT>alert('XSS');</SCRIPT><![endif]-->",
        "<XML ID=\"xss\"><I><B><IMG SRC=\"javas<!-- -->cript:alert('XSS')\"></B></I></XML>",
        "<a href=\"data:text/html;base64,PHNjcmlwdD5hbGVydCgxKTwvc2NyaXB0Pg==\">x</a>",
        "<math><mi xlink:href=\"data:x,<script>alert(4)</script>\">x</mi></math>",
        "<noscript><p title=\"</noscript><img src=x onerror=alert(1)>\">",
        "<svg><style><img src=x onerror=alert(1)></style></svg>",
        "<form><button formaction=javascript:alert(1)>X</button></form>",
        "<details open ontoggle=alert(1)>",
        "<video><source onerror=\"alert(1)\">",
        "<template><script>alert(1)</script></template>",
        "<p style=\"position:fixed;inset:0\" class=\"btn\" id=\"record\" onclick=alert(1)>all over</p>",
    ];

    [Theory(DisplayName = "No known vector leaves anything but harmless elements (OWASP)"), MemberData(nameof(Vectors))]
    public void Vectors_are_harmless(string vector)
    {
        foreach (var text in new[] { vector, $"<p>before {vector} after</p>", $"<b>{vector}" })
        {
            var clean = Html.Clean(text);
            var document = new HtmlParser().ParseDocument(clean);
            Assert.All(document.Body!.QuerySelectorAll("*"), element =>
            {
                Assert.Contains(element.TagName, Allowed);
                Assert.All(element.Attributes, attribute => Assert.Equal("href", attribute.Name));
                if (element.GetAttribute("href") is { } address)
                    Assert.Matches("^(https?|mailto):|^[^:]*$", address);
            });
            Assert.Equal(clean, Html.Clean(clean));
        }
    }

    [Fact(DisplayName = "What people format stays as it is")]
    public void Format_stays()
    {
        const string Text =
            "<h3>Before use</h3><p>Look for <b>broken</b> <i>wires</i>, "
            + "see <a href=\"https://example.org/a?b=1&amp;c=2\">here</a>.</p><ul><li>Never knot</li></ul>";
        Assert.Equal(Text, Html.Clean(Text));
        Assert.Equal("Before use\nLook for broken wires, see here.\nNever knot", Html.ToText(Text));
        Assert.True(new FormattedTextKind(100).Parse("<p> <br> </p>").Value.IsEmpty);
        Assert.Equal("<p>a &lt; b</p>", new FormattedTextKind(100).Convert(Value.From("a < b"), new TextKind(10)).Value.Text);
    }
}
